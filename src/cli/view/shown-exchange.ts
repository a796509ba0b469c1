import type { RunSource } from '../../core/report/run-source.ts';
import type { EventOf } from '../../core/journal/events.ts';
import type { ExchangeRecord } from '../../core/report/exchange.ts';

/** What a line of a call says of its request and its answer. */
export type ShownExchange = Readonly<{
  sent: ExchangeRecord['sent'] | undefined;
  answered: ExchangeRecord['answered'];
}>;

export const NO_EXCHANGE: ShownExchange = { sent: undefined, answered: undefined };

/** What was sent in another run for a call that took its response over. */
export function takenOver(
  { from }: EventOf<'ended'>,
  recorded: ((run: string) => RunSource | undefined) | undefined,
): ShownExchange {
  const x = from?.x.at(-1);
  return (x === undefined ? undefined : recorded?.(from!.run)?.exchange(x)) ?? NO_EXCHANGE;
}
