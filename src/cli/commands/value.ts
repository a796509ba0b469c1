import type { Command } from 'commander';
import path from 'node:path';
import { diagnosticIn, looseSource, type Diagnostic } from '../../core/diagnostics/source.ts';
import { namesRead } from '../../core/expression/names-read.ts';
import { StepHost } from '../../core/engine/host.ts';
import { explainNothing } from '../../core/engine/explain.ts';
import { evaluate, locate } from '../../core/expression/evaluate.ts';
import { frameOf, type Frame } from '../../core/expression/frame.ts';
import type { Host } from '../../core/expression/host.ts';
import type { Node } from '../../core/expression/model.ts';
import { parseExpression } from '../../core/expression/parse.ts';
import { normalizedPath } from '../../core/path/normalized.ts';
import { readJson } from '../../core/value/json-read.ts';
import { writeJson } from '../../core/value/json-write.ts';
import { showValue } from '../../core/value/show.ts';
import { readXml, XmlNode, type XmlDocument } from '../../core/value/xml.ts';
import { isList, isObject, type Maybe, type Value } from '../../core/value/value.ts';
import type { ExitStatus, Io } from '../io.ts';
import { jsonOf, openDocument } from '../documents.ts';
import { headerOf } from '../../core/http/message.ts';
import type { RecordedResponse } from '../../runner/record.ts';
import { runHost } from '../../runner/run-host.ts';
import { formOption } from './options.ts';
import { CommandError } from '../../runner/command-error.ts';
import { openWorkspace } from '../../runner/workspace.ts';
import { showDiagnostics } from '../view/diagnostics.ts';
import { prettyJson } from '../view/json.ts';
import { paletteOf } from '../view/palette.ts';
import { cut, padded } from '../view/text.ts';
import { visible } from '../../core/value/visible.ts';
import { examples, type CommandModule } from './definition.ts';

type Options = Readonly<{ file?: string; run?: string; call?: string; paths?: boolean; as: 'text' | 'json' }>;

/** `value EXPRESSION`: an expression on the last response, a file or standard input. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    formOption(sub)
      .argument('<expression>', 'expression; $ is the document')
      .argument('[file]', 'JSON file, or - for standard input (default: the last recorded response)')
      .option('--call <name>', 'use the response of this call')
      .option('--run <id>', 'run to read (default: the newest record)')
      .option('--paths', 'print the path of each node found')
      .action((expression: string, file: string | undefined, options: Options) =>
        run((io) => execute(expression, file === undefined ? options : { ...options, file }, io)),
      );
    examples(
      sub,
      "batharon value '$.arrivals[*].id'",
      'batharon value \'$.arrivals[?@.state == "expected"]\' --paths',
      "batharon value 'length($)' vessels.json",
    );
  },
};

async function execute(text: string, options: Options, io: Io): Promise<ExitStatus> {
  const source = looseSource('EXPRESSION', text);
  const { tree, problems } = parseExpression(text);
  if (!tree || problems.length > 0)
    return fail(
      problems.map((problem) => diagnosticIn(source, problem)),
      io,
      2,
    );
  const { value: document, host, step } = await documentOf(options, io);
  const frame = frameOf(document, () => undefined, host);
  const name = unknownName(tree);
  if (name !== undefined) {
    throw new CommandError('unknown-name', `Unknown name "${name}"`, 'The document is $; its members are $.name.');
  }
  if (options.paths) return printPaths(tree, text, frame, options, io);
  const outcome = evaluate(tree, frame);
  for (const { note } of step.notes) fail([diagnosticIn(source, note)], io, 0);
  if (outcome.problem) return fail([diagnosticIn(source, outcome.problem)], io, 1);
  if (outcome.value === undefined) {
    const { message, advice, part } = explainNothing(tree, source, frame);
    const range = part?.node.range ?? [0, text.length];
    return fail(
      [diagnosticIn(source, { code: 'found-nothing', range, message, ...(advice ? { advice } : {}) })],
      io,
      1,
    );
  }
  io.exit.out(`${shown(outcome.value, options, io)}\n`);
  return 0;
}

function fail(diagnostics: readonly Diagnostic[], io: Io, status: ExitStatus): ExitStatus {
  io.exit.err(showDiagnostics(diagnostics, paletteOf(io.colors), io.columns));
  return status;
}

/** Names mean nothing here: there is no chain around. */
function unknownName(tree: Node): string | undefined {
  return namesRead(tree).find((name) => name !== '$');
}

/** A text as it is, so that a script can use it; other values as JSON. */
function shown(value: Value, { as }: Options, io: Io): string {
  if (as === 'json') return writeJson(value, 2);
  if (isList(value) || isObject(value)) return prettyJson(value, paletteOf(io.colors));
  if (typeof value === 'string') return io.outIsTerminal ? visible(value) : value;
  return typeof value === 'object' && value !== null ? showValue(value) : writeJson(value);
}

function printPaths(tree: Node, text: string, frame: Frame, { as }: Options, io: Io): ExitStatus {
  if (tree.kind !== 'path' || tree.start.kind !== 'body') {
    throw new CommandError('wrong-argument', `--paths needs a path, not ${text}`, 'A path begins with $.');
  }
  const nodes = locate(tree, frame);
  if (as === 'json') {
    const rows = nodes.map(
      (node) => `  {"path": ${JSON.stringify(normalizedPath(node))}, "value": ${writeJson(node.value)}}`,
    );
    io.exit.out(rows.length === 0 ? '[]\n' : `[\n${rows.join(',\n')}\n]\n`);
    return 0;
  }
  const { quiet } = paletteOf(io.colors);
  const paths = nodes.map(normalizedPath);
  const width = Math.min(Math.max(0, ...paths.map((each) => each.length)), Math.floor(io.columns * 0.6));
  for (const [i, node] of nodes.entries()) {
    const value = cut(visible(showValue(node.value)), Math.max(20, io.columns - width - 2));
    io.exit.out(`${quiet(padded(paths[i]!, width))}  ${value}\n`);
  }
  if (nodes.length === 0) io.exit.err(`${text} found nothing\n`);
  return nodes.length === 0 ? 1 : 0;
}

/** What `$` is, and what functions may ask for beside it. */
async function documentOf(options: Options, io: Io): Promise<Readonly<{ value: Maybe; host: Host; step: StepHost }>> {
  const document = await openDocument(options, io);
  const { text, response } = document;
  const workspace = openWorkspace(io.cwd);
  const step = new StepHost(runHost(workspace, path.join(workspace.folder, 'batharon.yaml'), {}, io.exit), 'value');
  const beside = (xml: XmlDocument | undefined): Host =>
    step.beside({ url: response?.url ?? '', links: response && linksOf(response), document: xml, namespaces: {} });
  if (text.trim() === '') return { value: undefined, host: step, step };
  const isXml = response ? response.answered.decoded === 'xml' : text.trimStart().startsWith('<');
  const xml = isXml ? readXml(text) : undefined;
  if (xml && 'document' in xml) return { value: new XmlNode(xml.document), host: beside(xml.document), step };
  if (!response) return { value: jsonOf(document), host: step, step };
  // A response may well be text that is no JSON; a file that is asked for is meant to be JSON.
  const json = readJson(text);
  return { value: json.ok ? json.value : text, host: beside(undefined), step };
}

function linksOf({ answered }: RecordedResponse): string | undefined {
  return headerOf(answered.headers, 'link');
}
