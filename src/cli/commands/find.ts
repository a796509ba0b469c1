import { Option, type Command } from 'commander';
import path from 'node:path';
import { readSourceFile } from '../../adapters/project-files.ts';
import { withKeep } from '../../core/chain/insert.ts';
import { nameFor, propose, search, type Hit, type Search } from '../../core/path/propose.ts';
import { isName } from '../../core/path/scanner.ts';
import { stepName } from '../../core/journal/address.ts';
import type { Value } from '../../core/value/value.ts';
import { counted, showValue } from '../../core/value/show.ts';
import { yamlScalar } from '../../core/yaml/quoting.ts';
import { jsonOf, openDocument, plainJsonOf, type Document, type DocumentOptions } from '../documents.ts';
import type { ExitStatus, Io } from '../io.ts';
import { formOption } from './options.ts';
import { CommandError } from '../../runner/command-error.ts';
import { paletteOf } from '../view/palette.ts';
import { cut } from '../view/text.ts';
import { visible } from '../../core/value/visible.ts';
import { examples, type CommandModule } from './definition.ts';

type Way = 'exact' | 'all' | 'field';
type Options = DocumentOptions & Readonly<{ as: 'text' | 'json'; keep?: string; into?: string; by: Way }>;

/** Hits that are shown. */
const MAX_SHOWN = 5;

/** `find TEXT`: where a value or a name stands in a response, and the paths that lead there. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    formOption(sub)
      .argument('<text>', 'a value, a part of one, or the name of a member')
      .argument('[file]', 'JSON file, or - for standard input (default: the last recorded response)')
      .option('--call <name>', 'search the response of this call')
      .option('--run <id>', 'run to read (default: the newest record)')
      .option('--keep <name>', 'keep the first place found under this name; needs --into')
      .option('--into <chain>', '... in the call of this chain that gave the response')
      .addOption(new Option('--by <way>', 'which path to keep').choices(['exact', 'all', 'field']).default('exact'))
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
  let body = plainJsonOf(document);
  let { hits, count } = search(body, text);
  // Numbers are shown and searched for as they were sent; a document without any in sight need not be read so carefully.
  if (/^-?\d/.test(text) || hits.slice(0, MAX_SHOWN).some(({ value }) => typeof value === 'number')) {
    body = jsonOf(document);
    ({ hits, count } = search(body, text));
  }
  if (options.as === 'json') {
    const rows = hits.map((hit) => ({ ...propose(body, hit), name: nameFor(hit) }));
    io.exit.out(`${JSON.stringify(rows, null, 2)}\n`);
  } else {
    io.exit.out(`${shown({ hits, count }, body, document.name, text, io)}\n`);
  }
  const [first] = hits;
  if (!first) return 1;
  return options.keep === undefined ? 0 : keepIn(wayTo(body, first, options.by), document, options, io);
}

function shown({ hits, count }: Search, body: Value, name: string, text: string, io: Io): string {
  const palette = paletteOf(io.colors);
  if (count === 0) return `${JSON.stringify(text)} was not found in ${name}`;
  const parts = hits.slice(0, MAX_SHOWN).map((hit) => {
    const { exact, all, byField } = propose(body, hit);
    const room = Math.max(20, io.columns - exact.length - 3);
    const rows: readonly (readonly [string, string | undefined])[] = [
      ['over all items', all],
      ['by a field', byField],
      ['keep', `${nameFor(hit)}: ${yamlScalar(exact)}`],
    ];
    const lines = rows.flatMap(([label, path]) =>
      path === undefined ? [] : [`  ${palette.quiet(label.padEnd(16))}${visible(path)}`],
    );
    return [`${palette.strong(visible(exact))}   ${cut(visible(showValue(hit.value)), room)}`, ...lines].join('\n');
  });
  const rest = count > MAX_SHOWN ? `\n\nand ${counted(count - Math.min(count, MAX_SHOWN), 'more place')}` : '';
  return `${palette.quiet(`${counted(count, 'place')} in ${name}`)}\n\n${parts.join('\n\n')}${rest}`;
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

function wayTo(root: Value, hit: Hit, by: Way): string {
  const { exact, all, byField } = propose(root, hit);
  if (by === 'all') return all ?? exact;
  // A filter gives a list; of one item it is the first that is meant.
  return by === 'field' && byField !== undefined ? `first(${byField})` : exact;
}
