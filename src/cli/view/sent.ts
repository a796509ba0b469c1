import type { EventOf, JournalEvent } from '../../core/journal/events.ts';
import { tookOf, type ExchangeRecord } from '../../core/report/exchange.ts';
import { explainFailure } from '../../core/report/failure.ts';
import { History } from '../../core/report/history.ts';
import { readRun } from '../../adapters/journal-reader.ts';
import type { Io } from '../io.ts';
import { headerLines, operationLines, showBody, statusLine } from './exchange.ts';
import { showFailure } from './failure.ts';
import { paletteOf, type Palette } from './palette.ts';
import { sized } from './text.ts';
import { isHttpUrl } from '../../core/http/message.ts';
import { linkTarget } from '../../core/expression/link-header.ts';
import { spent } from '../../core/value/show.ts';

/** The response; piped, standard output is the body alone. */
export function showSent(exchange: ExchangeRecord, run: string, recordFolder: string, io: Io): void {
  const { body } = exchange.answered!;
  const palette = paletteOf(io.outIsTerminal ? io.colors : io.colors && io.errIsTerminal);
  const content = body && readRun(recordFolder, run)?.body(body);
  const more = nextPageLine(exchange, palette);
  const head = [...headOf(exchange, palette), ...(io.outIsTerminal ? toldHeaders(exchange, palette) : [])];
  const shown = content && showBody(content, body!.type, io.outIsTerminal ? palette : paletteOf(false));
  if (!io.outIsTerminal) {
    io.exit.err(`${[...head, ...more].join('\n')}\n`);
    if (shown !== undefined) io.exit.out(`${shown}\n`);
    return;
  }
  const whole = 'whole exchange: batharon look';
  const next = palette.quiet(content ? `read a value: batharon value '$...'   ${whole}` : whole);
  io.exit.out(`${head.join('\n')}\n`);
  if (shown !== undefined) io.exit.out(`\n${shown}\n`);
  io.exit.out(`\n${[...more, next].join('\n')}\n`);
}

/** The request, and the status with time and size. */
function headOf(exchange: ExchangeRecord, palette: Palette): readonly string[] {
  const { request } = exchange.sent;
  const { status, reason, body } = exchange.answered!;
  const took = `${spent(tookOf(exchange) ?? 0)}, ${sized(body?.size ?? 0)}`;
  return [
    `${palette.strong(request.method)} ${request.url}`,
    ...operationLines(exchange.sent, palette),
    `${statusLine(status, reason, palette)}   ${palette.quiet(took)}`,
  ];
}

function toldHeaders({ answered }: ExchangeRecord, palette: Palette): readonly string[] {
  return headerLines(
    answered!.headers.filter(([name]) => !QUIET_HEADERS.has(name.toLowerCase())),
    palette,
  );
}

function nextPageLine(exchange: ExchangeRecord, { quiet }: Palette): readonly string[] {
  const page = nextPage(exchange);
  return page === undefined ? [] : [quiet(`next page: ${page}   in a chain: paging: {next: link('next')}`)];
}

/** Where the Link header of the response says that the next page is. */
function nextPage({ sent, answered }: ExchangeRecord): string | undefined {
  const links = answered!.headers.filter(([name]) => name.toLowerCase() === 'link').map(([, value]) => value);
  if (links.length === 0) return undefined;
  try {
    const target = linkTarget(links.join(', '), 'next');
    const page = target === undefined ? undefined : new URL(target, sent.request.url).href;
    return page !== undefined && isHttpUrl(page) ? page : undefined;
  } catch {
    // A header that cannot be read is shown with the others, and is not this line's to judge.
    return undefined;
  }
}

/** Headers that say nothing to somebody who tries a request; `look` shows them all. */
const QUIET_HEADERS: ReadonlySet<string> = new Set([
  'date',
  'connection',
  'keep-alive',
  'transfer-encoding',
  'content-length',
  'x-powered-by',
]);

export function showBroken(events: readonly JournalEvent[], io: Io): void {
  const ended = events.find((event): event is EventOf<'ended'> => event.type === 'ended');
  if (!ended) return;
  io.exit.err(`${showFailure(explainFailure(ended, new History()), paletteOf(io.colors), io.columns)}\n`);
}
