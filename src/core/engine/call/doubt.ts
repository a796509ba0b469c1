import type { CallStep } from '../../chain/model.ts';
import type { EventOf } from '../../journal/events.ts';
import type { CallResult } from './finish.ts';
import type { CallSite } from './site.ts';
import { problemOf } from './problems.ts';

/**
 * A request went out, its answer never came, and it may not be sent twice: only who can look at the server knows whether it
 * was done. The run pauses until it is told.
 */
export function inDoubt({ step, context: { address, run } }: CallSite, { at, request }: EventOf<'sent'>): CallResult {
  const when = new Date(at).toISOString().replace('.000', '');
  const message = `${request.method} ${request.url} was sent at ${when} and never answered: the server may have processed it`;
  const advice = `Check at the server, then resume with --sent ${address} if it was processed, or --not-sent ${address} if not.`;
  run.pausing.begin({ why: 'doubt', step: address, detail: `${message}. ${advice}` });
  return { exit: 130, cut: true, problem: problemOf(step, 'in-doubt', message, advice) };
}

/** Nothing stands in the record that could stand for sending it. */
export function notRecorded(step: CallStep): CallResult {
  const message = `There is no recording of "${step.name}", and a rehearsal sends nothing`;
  return { exit: 1, problem: problemOf(step, 'not-recorded', message, 'Run the chain once up to this call.') };
}

/** A change that was made is not made again for the file that came of it. */
export function savedChanged(step: CallStep, path: string): CallResult {
  const message = `The file ${path} changed after this call saved it, and the call is not repeatable`;
  const advice = 'Restore the file, or have it sent again: --not-sent ADDRESS.';
  return { problem: problemOf(step, 'saved-file-changed', message, advice), exit: 1 };
}

/** A secret is in no record, and the call that gave it is not one to send again. */
export function secretGone(step: CallStep, name: string): CallResult {
  const message = `The secret "${name}" is never recorded, and the call that returned it is not repeatable`;
  const advice =
    'Add repeatable: true to that call if sending it again is safe, or send it once more with --not-sent ADDRESS.';
  return { problem: problemOf(step, 'secret-not-recorded', message, advice), exit: 1 };
}
