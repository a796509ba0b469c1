import type { RunSource } from '../../core/report/run-source.ts';
import { FewMap } from '../../core/few-map.ts';
import type { EventOf } from '../../core/journal/events.ts';
import { NO_EXCHANGE, type ShownExchange } from './shown-exchange.ts';

/** The exchanges of calls that have not ended: those that did are told, and forgotten. */
export class ExchangesUnderWay {
  private readonly requests = new FewMap<number, EventOf<'sent'>>();
  private readonly answers = new FewMap<number, EventOf<'answered'>>();

  sent(event: EventOf<'sent'>): void {
    this.requests.set(event.x, event);
  }

  arrived(event: EventOf<'answered'>): void {
    this.answers.set(event.x, event);
  }

  requestOf(x: number): EventOf<'sent'> | undefined {
    return this.requests.get(x);
  }

  answered(x: number): EventOf<'answered'> | undefined {
    return this.answers.get(x);
  }

  /** The status that the last request of a step was answered with. */
  statusOf({ x }: EventOf<'ended'>): number | null {
    return this.answers.get(x?.at(-1) ?? 0)?.status ?? null;
  }

  /** An exchange whose call ended; one of before is read from its record. */
  take(x: number, before: RunSource | undefined): ShownExchange {
    const [sent, answered] = [this.requests.get(x), this.answers.get(x)];
    this.requests.delete(x);
    this.answers.delete(x);
    return sent ? { sent, answered } : (before?.exchange(x) ?? NO_EXCHANGE);
  }

  forget({ x = [] }: EventOf<'ended'>): void {
    for (const each of x) {
      this.requests.delete(each);
      this.answers.delete(each);
    }
  }
}
