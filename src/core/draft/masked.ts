import { environmentName } from '../chain/secret-words.ts';
import type { Header } from '../http/message.ts';

/** Headers that are written by whoever sends, anew for each request. */
const OF_SENDER: ReadonlySet<string> = new Set(['accept-encoding', 'user-agent', 'content-length', 'host']);

/** Whether a header is written by whoever sends. */
export function isOfSender(name: string): boolean {
  return OF_SENDER.has(name.toLowerCase());
}

/** A recorded request; what is secret in it is masked. */
export type RecordedSample = Readonly<{ method: string; url: string; headers: readonly Header[] }>;

/** The parts of a recorded text: `literal` writes what was sent, `secret` what is masked, by the name of a variable for it. */
export function withMasks(
  text: string,
  literal: (text: string) => string,
  secret: (variable: string) => string,
): string {
  return text
    .split(/\u2039([^\u203a]*)\u203a/)
    .map((part, i) => (i % 2 === 1 ? secret(environmentName(part)) : part === '' ? '' : literal(part)))
    .join('');
}
