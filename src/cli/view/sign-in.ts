import type { SignedIn } from '../../core/engine/sign-in.ts';
import type { EventOf, JournalEvent } from '../../core/journal/events.ts';
import { exchangesOf, tookOf, type ExchangeRecord } from '../../core/report/exchange.ts';
import { headerOf } from '../../core/http/message.ts';
import { counted, spent } from '../../core/value/show.ts';
import { statusLine } from './exchange.ts';
import type { Palette } from './palette.ts';
import { padded } from './text.ts';
import { visible } from '../../core/value/visible.ts';

type SignInShown = Readonly<{
  place: string;
  scheme: string;
  /** Secrets that the credential is made of, and where each was found. */
  secrets: readonly Readonly<{ name: string; place: string }>[];
  events: readonly JournalEvent[];
  outcome: SignedIn;
}>;

/** What was done to sign in: each request, what was asked and given, how long it is good; never a value. */
export function showSignIn({ place, scheme, secrets, events, outcome }: SignInShown, palette: Palette): string {
  const made = events.find((event) => event.type === 'credential');
  const grant = exchangesOf(events)
    .map(grantOf)
    .find((each) => each !== undefined);
  const shownScheme =
    made?.scheme ??
    [scheme, ...(grant === undefined ? [] : [grant.replace(/^.*:/, '').replaceAll('_', '-')])].join(' ');
  const from = secrets.map(({ name, place: where }) => `${name} from ${where}`).join(', ');
  return [
    `${palette.strong(place)}   ${shownScheme}${from === '' ? '' : `   ${palette.quiet(from)}`}`,
    ...exchangesOf(events).flatMap((exchange) => exchangeLines(exchange, palette)),
    ...(made ? madeLines(made, palette) : []),
    '',
    closing(outcome, scheme, palette),
  ].join('\n');
}

function row(label: string, text: string, { quiet }: Palette): string {
  return `       ${quiet(padded(label, 12))} ${visible(text)}`;
}

function exchangeLines(exchange: ExchangeRecord, palette: Palette): readonly string[] {
  const { sent, answered, broken } = exchange;
  const { method, url } = sent.request;
  const answer = answered
    ? statusLine(answered.status, answered.reason, palette)
    : palette.bad(broken?.message ?? 'no response');
  const grant = grantOf(exchange);
  const drift = answered ? clockDrift(answered) : undefined;
  return [
    '',
    ` ${palette.strong(method)} ${visible(url)}   ${answer}   ${palette.quiet(spent(tookOf(exchange) ?? 0))}`,
    ...(grant === undefined ? [] : [row('grant', grant, palette)]),
    ...(answered && answered.status >= 400 ? refusalLines(answered, palette) : []),
    ...(drift === undefined ? [] : [row('clock', drift, palette)]),
  ];
}

/** What was asked for, as RFC 6749 names it, where a request asks for a token. */
function grantOf({ sent: { request } }: ExchangeRecord): string | undefined {
  const { body } = request;
  return body && 'text' in body ? (new URLSearchParams(body.text).get('grant_type') ?? undefined) : undefined;
}

function refusalLines({ body }: EventOf<'answered'>, palette: Palette): readonly string[] {
  return body && 'text' in body ? [row('response', body.text.trim().slice(0, 300), palette)] : [];
}

/** How far the server's clock is from ours; a few seconds are within what a `Date` field can say. */
function clockDrift({ headers, at }: EventOf<'answered'>): string | undefined {
  const date = Date.parse(headerOf(headers, 'date') ?? '');
  if (Number.isNaN(date)) return undefined;
  const seconds = Math.round((date - at) / 1000);
  if (Math.abs(seconds) <= 2) return 'the clocks agree';
  return `the server's clock is ${counted(Math.abs(seconds), 'second')} ${seconds > 0 ? 'ahead' : 'behind'}`;
}

function madeLines(
  { asked, given, expires, at, claims, otherClaims = [] }: EventOf<'credential'>,
  palette: Palette,
): readonly string[] {
  const scope =
    given === undefined || given === asked ? asked : `${given}${asked === undefined ? '' : `; requested ${asked}`}`;
  const life =
    expires === undefined
      ? 'until it is refused'
      : `${spent(expires - at)}, until ${new Date(expires).toISOString().slice(0, 19)}Z`;
  const shown = Object.entries(claims ?? {}).map(([name, value]) => `${name} ${claimText(name, value)}`);
  const others = otherClaims.length > 0 ? [`others: ${otherClaims.join(', ')}`] : [];
  return [
    ...(scope === undefined ? [] : [row('scope', scope, palette)]),
    row('valid for', life, palette),
    ...(claims ? [row('token', `a JWT: ${[...shown, ...others].join('; ')}`, palette)] : []),
  ];
}

/** Times of a JWT are seconds since 1970. */
function claimText(name: string, value: unknown): string {
  if (['iat', 'nbf', 'exp'].includes(name) && typeof value === 'number')
    return `${new Date(value * 1000).toISOString().slice(0, 19)}Z`;
  return typeof value === 'string' ? value : JSON.stringify(value);
}

function closing(outcome: SignedIn, scheme: string, palette: Palette): string {
  if ('problem' in outcome) {
    const { code, message, advice } = outcome.problem;
    return `${palette.bad('not signed in')}   ${code}: ${visible(message)}${advice ? `\n${' '.repeat(16)}${visible(advice)}` : ''}`;
  }
  if (outcome.did === 'signed-in') return `${palette.good('signed in')}   calls of this API can be sent`;
  const how: Readonly<Record<string, string>> = {
    digest:
      'digest: the server sends its challenge with the first 401, and the request is then repeated with the answer',
    signature: 'each request is signed when it is sent',
    attach: 'each request gets its own credentials when it is sent',
  };
  return `${palette.good('nothing to sign in to')}   ${how[scheme] ?? 'the credential is sent as it is with each request'}`;
}
