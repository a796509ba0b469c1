import type { Command } from 'commander';
import { exchangesBack, findCallback, findExchange, triesOf } from '../../core/report/exchange.ts';
import { isNamed, itemsOf, stepName } from '../../core/journal/address.ts';
import type { ExitStatus, Io } from '../io.ts';
import { openRecord } from '../../runner/record.ts';
import { openBody } from '../open-body.ts';
import { formOption } from './options.ts';
import { CommandError } from '../../runner/command-error.ts';
import { openWorkspace } from '../../runner/workspace.ts';
import { didYouMean } from '../../core/diagnostics/suggest.ts';
import { pathsIn, type LineOfBody } from '../../core/path/lines.ts';
import { linesOfXml } from '../../core/path/propose-xml.ts';
import { readXml } from '../../core/value/xml.ts';
import { originsOf } from '../../core/report/origins.ts';
import type { ExchangeRecord } from '../../core/report/exchange.ts';
import type { RecordedRun } from '../../adapters/journal-reader.ts';
import { bodyJson, bodyText } from '../../runner/record.ts';
import { pathLines, showCallback, showExchange, tryLines } from '../view/exchange.ts';
import { originLines } from '../view/preview.ts';
import type { Palette } from '../view/palette.ts';
import { paletteOf } from '../view/palette.ts';
import { examples, type CommandModule } from './definition.ts';

type Options = Readonly<{
  run?: string;
  as: 'text' | 'json';
  item?: string;
  paths?: boolean;
  origins?: boolean;
  open?: boolean;
}>;

/** `look [CALL]`: an exchange of a record as it was sent and received. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    formOption(sub)
      .argument('[call]', 'name or number of a call (default: the last request)')
      .option('--run <id>', 'run to read (default: the newest record)')
      .option('--item <number>', 'item of a loop: 5, or 5.2 in nested loops')
      .option('--paths', 'print the body of the response with the path of each line')
      .option('--origins', 'print where each value of the request came from')
      .option('--open', "open a picture, sound, PDF or page with the system's program")
      .action((call: string | undefined, options: Options) => run((io) => execute(call, options, io)));
    examples(
      sub,
      'batharon look',
      'batharon look arrivals --paths',
      'batharon look reserve --origins --run 0523-1412-7k',
      'batharon look --open',
    );
  },
};

async function execute(call: string | undefined, options: Options, io: Io): Promise<ExitStatus> {
  const record = openRecord(openWorkspace(io.cwd), options.run, io);
  const { journal } = record;
  const palette = paletteOf(io.colors);
  const found = findExchange(exchangesBack(journal), call, options.item);
  const callback = found ? undefined : findCallback(journal, call, options.item);
  if (callback) {
    const { step, request, answered, answer } = callback;
    const json = () => JSON.stringify({ run: record.id, step, received: request, answered, answer }, null, 2);
    io.exit.out(`${options.as === 'json' ? json() : showCallback(callback, record.id, record.body, palette)}\n`);
    return 0;
  }
  const taken = found ? undefined : reusedBy(record, call, options.item);
  if (taken) {
    io.exit.err(`taken over from run ${taken.record.id}\n`);
    return show(taken.found, taken.record, options, io);
  }
  if (!found) throw notThere(record, call, options.item);
  return show(found, record, options, io);
}

/** The last exchange of another run whose response a call took over. */
function reusedBy(
  record: RecordedRun,
  call: string | undefined,
  item: string | undefined,
): Readonly<{ found: ExchangeRecord; record: RecordedRun }> | undefined {
  for (const event of record.journal.backwards()) {
    if (event.type !== 'ended' || !event.from || (item !== undefined && itemsOf(event.step) !== item)) continue;
    if (call !== undefined && !isNamed(event.step, call)) continue;
    const other = record.other(event.from.run);
    const last = event.from.x.at(-1);
    for (const found of other ? exchangesBack(other.journal) : [])
      if (found.sent.x === last) return { found, record: other! };
  }
  return undefined;
}

function show(found: ExchangeRecord, record: RecordedRun, options: Options, io: Io): ExitStatus | Promise<ExitStatus> {
  if (options.open) return openBody(found, record, io);
  const palette = paletteOf(io.colors);
  if (options.paths) {
    io.exit.out(`${pathLines(pathsOf(found, record), palette).join('\n')}\n`);
  } else if (options.origins) {
    io.exit.out(`${originText(found, record, palette)}\n`);
  } else if (options.as === 'json') {
    const { sent, answered, broken } = found;
    io.exit.out(
      `${JSON.stringify({ run: record.id, step: sent.step, request: sent.request, response: answered ?? broken ?? null }, null, 2)}\n`,
    );
  } else {
    const tries = triesOf(found, record.journal);
    const shown = showExchange(found, record.id, record.body, palette);
    io.exit.out(`${tries.length > 1 ? `${tryLines(tries, palette).join('\n')}\n\n` : ''}${shown}\n`);
  }
  return 0;
}

function notThere({ id, journal }: RecordedRun, call: string | undefined, item: string | undefined): CommandError {
  const names = new Set<string>();
  for (const event of journal) {
    if (event.type === 'ended' && event.from) names.add(stepName(event.step));
    if (event.type === 'sent') names.add(stepName(event.step));
    if (event.type === 'called-back') names.add(event.name);
  }
  const all = [...names];
  const advice =
    all.length === 0 ? 'It sent nothing.' : (didYouMean(call ?? '', all) ?? `Its calls are ${all.join(', ')}.`);
  const of = item === undefined ? '' : ` for item ${item}`;
  const message =
    call === undefined ? `The record ${id} has no request${of}` : `The record ${id} has no call "${call}"${of}`;
  return new CommandError('call-not-found', message, advice);
}

function pathsOf({ sent, answered }: ExchangeRecord, record: RecordedRun): readonly LineOfBody[] {
  const body = bodyJson(record, answered?.body);
  if (body !== undefined) return pathsIn(body);
  const xml = readXml(bodyText(record, answered?.body) ?? '');
  if ('document' in xml) return linesOfXml(xml.document);
  const advice = 'Paths work on JSON and XML. Leave out --paths to see the response itself.';
  throw new CommandError('not-decodable', `The response of ${stepName(sent.step)} is neither JSON nor XML`, advice);
}

/** The request line, and beneath it each value with where it came from. */
function originText({ sent }: ExchangeRecord, record: RecordedRun, palette: Palette): string {
  const origins = originsOf(sent, record.events);
  const { method, url } = sent.request;
  const none = palette.quiet('  All values of this request are literals in the chain file.');
  const lines = origins.length > 0 ? originLines(origins, palette) : [none];
  return [
    `${palette.strong(stepName(sent.step))}   ${palette.quiet(`run ${record.id}`)}`,
    `  ${method} ${url}`,
    '',
    ...lines,
  ].join('\n');
}
