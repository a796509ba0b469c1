import type { PauseReason } from '../journal/records.ts';
import type { Code } from '../diagnostics/catalogue.ts';
import type { EventBody } from '../journal/events.ts';
import { dateTimeText } from '../value/json-write.ts';
import { DateTime } from '../value/value.ts';
import type { Recorder } from '../journal/recorder.ts';

/** Why a run stops before its end and stays open: with what exit status, and when it can go on. */
export type Pause = Readonly<{
  why: PauseReason;
  step?: string;
  /** Milliseconds since 1970 from which on it is worth going on. */
  until?: number;
  detail?: string;
}>;

const EXITS: Readonly<Record<PauseReason, number>> = {
  interrupt: 130,
  quota: 5,
  'shared-limits': 3,
  within: 3,
  to: 0,
  only: 0,
  watch: 0,
  doubt: 3,
  changed: 3,
};

/** The wish that a run stops: no further request begins, waits end, requests in flight may end. */
export class Pausing {
  private readonly controller = new AbortController();
  pause: Pause | undefined;

  constructor(
    private readonly recorder: Recorder,
    outside: AbortSignal,
  ) {
    if (outside.aborted) this.begin({ why: 'interrupt' });
    else outside.addEventListener('abort', () => this.begin({ why: 'interrupt' }), { once: true });
  }

  /** Aborted from then on. */
  get signal(): AbortSignal {
    return this.controller.signal;
  }

  /** The first reason counts. */
  begin(pause: Pause): void {
    if (this.pause) return;
    this.pause = pause;
    if (pause.why === 'quota') this.recorder.record(spentNote(pause));
    if (pause.why === 'shared-limits') this.recorder.record(noteOn(pause, 'redis-not-usable', pause.detail ?? ''));
    if (pause.why === 'changed') this.recorder.record(noteOn(pause, 'changed-since-sent', pause.detail ?? ''));
    if (pause.why === 'doubt') this.recorder.record(noteOn(pause, 'in-doubt', pause.detail ?? ''));
    this.recorder.tell({ type: 'pausing', ...pause });
    this.controller.abort();
  }

  /** The exit status of the run because of it. */
  get exit(): number {
    return this.pause ? EXITS[this.pause.why] : 0;
  }
}

function spentNote({ detail = '', until, step }: Pause): EventBody {
  const when = until === undefined ? '' : `; it starts again at ${dateTimeText(new DateTime(until))}`;
  return noteOn(
    { step },
    'quota-spent',
    `${detail}${when}. To see it: batharon limits. To wait for it: --wait-for-quota`,
  );
}

function noteOn({ step }: Readonly<{ step?: string | undefined }>, code: Code, message: string): EventBody {
  return { type: 'note', code, level: 'warning', message, ...(step === undefined ? {} : { step }) };
}
