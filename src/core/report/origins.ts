import { evaluate } from '../expression/evaluate.ts';
import { frameOf } from '../expression/frame.ts';
import { parseExpression } from '../expression/parse.ts';
import type { EventOf, JournalEvent } from '../journal/events.ts';
import { showValue } from '../value/show.ts';
import type { Maybe } from '../value/value.ts';
import { boundNames, valueOfBound } from './bound.ts';
import { History } from './history.ts';

/** A value of a request that came from elsewhere: where it stands, what is written there, and its history. */
type SentOrigin = Readonly<{ place: string; text: string; value: string | undefined; from: string }>;

/** Where each value of a recorded request came from, back to inputs and responses. */
export function originsOf(sent: EventOf<'sent'>, events: readonly JournalEvent[]): readonly SentOrigin[] {
  const history = new History();
  const before = events.filter(({ seq }) => seq < sent.seq);
  for (const event of before) history.add(event);
  const bound = new Map(boundNames(before).map((each) => [each.name, each]));
  const frame = frameOf(undefined, (name): Maybe => {
    const known = bound.get(name);
    return known && valueOfBound(known);
  });
  return (sent.placeholders ?? []).map(({ place, text, reads }): SentOrigin => {
    const { tree } = parseExpression(text);
    const found = tree ? evaluate(tree, frame).value : undefined;
    const isSecret = reads.some(({ name }) => name === 'secret');
    const value = found === undefined ? (isSecret ? '' : undefined) : showValue(found, 60);
    const trails = reads.map((read) => history.trail(read).join(', '));
    return { place, text, value: value ?? '', from: trails.filter((trail) => trail !== '').join('; ') || 'computed' };
  });
}
