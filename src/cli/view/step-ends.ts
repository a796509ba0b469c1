import { isDone } from '../../core/journal/call-end.ts';
import type { EventOf } from '../../core/journal/events.ts';
import { spent } from '../../core/value/show.ts';
import { boundWords } from './outcome-words.ts';

/** Kinds of steps whose end says nothing that was not said. */
const SILENT_ENDS: ReadonlySet<string> = new Set(['if', 'item', 'parallel']);

/** Kinds of steps whose line was written before they ended. */
const SAID_ALREADY: ReadonlySet<string> = new Set(['say']);

/** Whether the end of a step is no news. */
export function saysNothing(event: EventOf<'ended'>): boolean {
  if (SAID_ALREADY.has(event.kind) && isDone(event)) return true;
  return SILENT_ENDS.has(event.kind) && event.problem === undefined;
}

/** A failure of its own, and not that of a step inside. */
export function isFailure({ outcome, kind, problem }: EventOf<'ended'>): boolean {
  return outcome === 'failed' && (kind === 'call' || problem !== undefined);
}

/** What there is to say of a step that sends nothing itself. */
export function heldWords(event: EventOf<'ended'>, loopHead: (step: string) => string): string {
  const bound = boundWords(event);
  switch (event.kind) {
    case 'each':
      return joined(loopHead(event.step), event.why, bound);
    case 'chain':
      // It has said its name when it began.
      return bound;
    case 'wait':
      return spent(event.ms);
    default:
      return joined(event.why, bound);
  }
}

function joined(...parts: readonly (string | undefined)[]): string {
  return parts.filter((part) => part !== undefined && part !== '').join('   ');
}

/** Which request of its call one is: `page 2`, `attempt 3`. */
export function placeInCall({ purpose, page, attempt, tryNumber, hop }: EventOf<'sent'>): readonly string[] {
  return [
    purpose === 'call' || purpose === 'undo' ? '' : purpose,
    page === undefined ? '' : `page ${page}`,
    attempt === undefined ? '' : `poll ${attempt}`,
    tryNumber > 1 ? `attempt ${tryNumber}` : '',
    hop > 0 ? `redirect ${hop}` : '',
  ].filter((part) => part !== '');
}

/** Method and path under the api's own URL; any other URL is shown whole. */
export function requestText({ request, api }: EventOf<'sent'>, run: EventOf<'run'> | undefined): string {
  const base = run?.apis.find(({ name }) => name === api)?.url;
  const isUnder = base !== undefined && base !== '' && request.url.startsWith(`${base}/`);
  return `${request.method} ${isUnder ? request.url.slice(base.length) : request.url}`;
}
