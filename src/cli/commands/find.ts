import { Option, type Command } from 'commander';
import path from 'node:path';
import { readSourceFile } from '../../adapters/project-files.ts';
import { withKeep } from '../../core/chain/insert.ts';
import { nameFor, propose, search, type Hit, type Search } from '../../core/path/propose.ts';
import { isName } from '../../core/path/scanner.ts';
import { stepName } from '../../core/journal/address.ts';
import type { Value } from '../../core/value/value.ts';
import { counted, grouped, showValue } from '../../core/value/show.ts';
import { searchXml, type XmlHit } from '../../core/path/propose-xml.ts';
import { readXml } from '../../core/value/xml.ts';
import { withScalars } from '../../core/draft/json-text.ts';
import { writeJson } from '../../core/value/json-write.ts';
import { yamlScalar } from '../../core/yaml/quoting.ts';
import { jsonOf, openDocument, plainJsonOf, type Document, type DocumentOptions } from '../documents.ts';
import { askOne } from '../ask-one.ts';
import type { ExitStatus, Io } from '../io.ts';
import { formOption } from './options.ts';
import { CommandError } from '../../runner/command-error.ts';
import { paletteOf } from '../view/palette.ts';
import { cut } from '../view/text.ts';
import { visible } from '../../core/value/visible.ts';
import { examples, type CommandModule } from './definition.ts';

const WAYS = ['exact', 'all', 'field'] as const;
type Way = (typeof WAYS)[number];
type Options = DocumentOptions & Readonly<{ as: 'text' | 'json' | 'set'; keep?: string; into?: string; by?: Way }>;

/** Hits that are shown, and that are listed for programs. */
const MAX_SHOWN = 5;
const MAX_LISTED = 1000;

/** `find TEXT`: where a value or a name stands in a response, and the paths that lead there. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    formOption(sub, 'set')
      .argument('<text>', 'a value, a part of one, or the name of a member')
      .argument('[file]', 'JSON or XML file, or - for standard input (default: the last recorded response)')
      .option('--call <name>', 'search the response of this call')
      .option('--run <id>', 'run to read (default: the newest record)')
      .option('--keep <name>', 'keep the first place found under this name; needs --into')
      .option('--into <chain>', '... in the call of this chain that gave the response')
      .addOption(
        new Option('--by <way>', 'which path to keep (default: exact; on a terminal it is asked)').choices(WAYS),
      )
      .action((text: string, file: string | undefined, options: Options) =>
        run((io) => execute(text, file === undefined ? options : { ...options, file }, io)),
      );
    examples(
      sub,
      'batharon find N3',
      "batharon find 'KM 204/5' --call arrivals",
      'batharon find A-318 --keep arrival --into chains/berth.chain.yaml',
      'batharon find depth berths.json --as json',
    );
  },
};

async function execute(text: string, options: Options, io: Io): Promise<ExitStatus> {
  if ((options.keep === undefined) !== (options.into === undefined)) {
    throw new CommandError(
      'invalid-option',
      '--keep and --into belong together',
      'Example: --keep berth --into chains/berth.chain.yaml.',
    );
  }
  const document = await openDocument(options, io);
  return isXml(document.text) ? inXml(text, document, options, io) : inJson(text, document, options, io);
}

function isXml(text: string): boolean {
  return /^\ufeff?\s*<[?!A-Za-z]/.test(text.slice(0, 200));
}

async function inJson(text: string, document: Document, options: Options, io: Io): Promise<ExitStatus> {
  let body = plainJsonOf(document);
  let { hits, count } = search(body, text);
  // Numbers are shown and searched for as they were sent; a document without any in sight need not be read so carefully.
  if (/^-?\d/.test(text) || hits.slice(0, MAX_SHOWN).some(({ value }) => typeof value === 'number')) {
    body = jsonOf(document);
    ({ hits, count } = search(body, text));
  }
  if (options.as === 'json') {
    const rows = hits.slice(0, MAX_LISTED).map((hit) => ({ ...propose(body, hit), name: nameFor(hit) }));
    io.exit.out(`${JSON.stringify(rows, null, 2)}\n`);
  } else if (options.as === 'set') {
    const lines = hits.map((hit) => `  ${yamlScalar(propose(body, hit).exact)}: ${asSetValue(hit.value)}\n`);
    io.exit.out(hits.length === 0 ? '' : `set:\n${lines.join('')}`);
  } else {
    io.exit.out(`${shown({ hits, count }, body, document, text, io)}\n`);
  }
  const [first] = hits;
  if (!first) return 1;
  if (options.keep === undefined) return 0;
  const isAsked = options.by === undefined && io.mayAsk;
  const expression = isAsked ? await chosen(body, hits, io) : wayTo(body, first, options.by ?? 'exact');
  return keepIn(expression, document, options, io);
}

/** A value as `set` takes it, numbers as they were sent: JSON is YAML, in whose texts braces are doubled. */
function asSetValue(value: Value): string {
  return writeJson(
    withScalars(value, (scalar) => (typeof scalar === 'string' ? scalar.replace(/[{}]/g, '$&$&') : undefined)),
  );
}

function shown({ hits, count }: Search, body: Value, { name, meaningAt }: Document, text: string, io: Io): string {
  const palette = paletteOf(io.colors);
  if (count === 0) return `${JSON.stringify(text)} was not found in ${name}`;
  const groups = groupsOf(hits);
  const parts = groups.slice(0, MAX_SHOWN).map(({ hit, places }) => {
    const { exact, all, byField } = propose(body, hit);
    const room = Math.max(20, io.columns - exact.length - 3);
    const rows: readonly (readonly [string, string | undefined])[] = [
      ['over all items', all],
      ['by a field', byField],
      ['described as', meaningAt?.(hit.keys)],
      ['keep', `${nameFor(hit)}: ${yamlScalar(exact)}`],
      ['places like it', places === 1 ? undefined : `${grouped(places - 1)} more`],
    ];
    const lines = rows.flatMap(([label, path]) =>
      path === undefined ? [] : [`  ${palette.quiet(label.padEnd(16))}${visible(path)}`],
    );
    return [`${palette.strong(visible(exact))}   ${cut(visible(showValue(hit.value)), room)}`, ...lines].join('\n');
  });
  const told = groups.slice(0, MAX_SHOWN).reduce((sum, { places }) => sum + places, 0);
  const rest = count > told ? `\n\nand ${counted(count - told, 'more place')}` : '';
  return `${palette.quiet(`${counted(count, 'place')} in ${name}`)}\n\n${parts.join('\n\n')}${rest}`;
}

/** Places that only items tell apart, by the first of them. */
function groupsOf(hits: readonly Hit[]): readonly Readonly<{ hit: Hit; places: number }>[] {
  const groups = new Map<string, { hit: Hit; places: number }>();
  for (const hit of hits) {
    const pattern = `${hit.rank} ${hit.keys.map((key) => (typeof key === 'number' ? '*' : JSON.stringify(key))).join('/')}`;
    const group = groups.get(pattern);
    if (group) group.places++;
    else groups.set(pattern, { hit, places: 1 });
  }
  return [...groups.values()];
}

/** The same in an XML document, where paths are those of XPath. */
function inXml(text: string, document: Document, options: Options, io: Io): ExitStatus {
  const read = readXml(document.text);
  if (!('document' in read)) throw new CommandError('not-decodable', `${document.name} is not XML: ${read.message}`);
  if (options.as === 'set')
    throw new CommandError('invalid-option', `${document.name} is XML, and set takes paths into JSON`);
  const hits = searchXml(read.document, text);
  const palette = paletteOf(io.colors);
  const keepOf = ({ exact }: XmlHit) => `xpath(${JSON.stringify(`string(${exact})`)})`;
  if (options.as === 'json')
    io.exit.out(
      `${JSON.stringify(
        hits.map(({ exact, all, name }) => ({ exact, all, name })),
        null,
        2,
      )}\n`,
    );
  else if (hits.length === 0) io.exit.out(`${JSON.stringify(text)} was not found in ${document.name}\n`);
  else {
    const parts = hits.slice(0, MAX_SHOWN).map((hit) => {
      const rows = [
        ['of all', hit.all],
        ['keep', `${hit.name}: ${keepOf(hit)}`],
      ] as const;
      const lines = rows.map(([label, path]) => `  ${palette.quiet(label.padEnd(16))}${visible(path)}`);
      return [
        `${palette.strong(visible(hit.exact))}   ${cut(visible(showValue(hit.text)), io.columns)}`,
        ...lines,
      ].join('\n');
    });
    const rest = hits.length > MAX_SHOWN ? `\n\nand ${counted(hits.length - MAX_SHOWN, 'more place')}` : '';
    io.exit.out(
      `${palette.quiet(`${counted(hits.length, 'place')} in ${document.name}`)}\n\n${parts.join('\n\n')}${rest}\n`,
    );
  }
  const [first] = hits;
  if (!first) return 1;
  return options.keep === undefined ? 0 : keepIn(keepOf(first), document, options, io);
}

/** Writes the `keep` into the call that gave the response; the file is otherwise left as it is. */
function keepIn(expression: string, { response }: Document, options: Options, io: Io): ExitStatus {
  const { keep: name = '', into = '' } = options;
  if (!isName(name))
    throw new CommandError(
      'invalid-name',
      `"${name}" is not a valid name`,
      'A name consists of letters, digits and _.',
    );
  const full = path.resolve(io.cwd, into);
  const read = readSourceFile(full, io.cwd);
  if (!read.file) throw new CommandError(read.problem, `The file ${into} cannot be read`);
  const text = withKeep(read.file, options.call ?? (response && stepName(response.step)), name, expression);
  if (typeof text !== 'string') throw new CommandError('call-not-found', text.message, text.advice);
  io.exit.rewriteFile(full, text);
  io.exit.out(`\nAdded to ${into}: ${name}: ${expression}\n`);
  return 0;
}

/** The path that a person chooses among those of the places that were shown. */
async function chosen(body: Value, hits: readonly Hit[], io: Io): Promise<string> {
  const told = groupsOf(hits)
    .slice(0, MAX_SHOWN)
    .flatMap(({ hit }) => WAYS.map((by) => wayTo(body, hit, by)));
  io.exit.err('\n');
  return askOne(
    'Which path should be kept?',
    Object.fromEntries(told.map((expression) => [expression, expression])),
    io,
  );
}

function wayTo(root: Value, hit: Hit, by: Way): string {
  const { exact, all, byField } = propose(root, hit);
  if (by === 'all') return all ?? exact;
  // A filter gives a list; of one item it is the first that is meant.
  return by === 'field' && byField !== undefined ? `first(${byField})` : exact;
}
