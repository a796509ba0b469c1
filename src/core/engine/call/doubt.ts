import type { CallStep } from '../../chain/model.ts';
import type { EventOf } from '../../journal/events.ts';
import type { RunContext } from '../context.ts';
import type { CallEnding } from './ending.ts';
import { problemOf } from './problems.ts';

/**
 * A request went out, its answer never came, and it may not be sent twice: only who can look at the server knows whether it
 * was done. The run pauses until it is told.
 */
export function inDoubt(
  step: CallStep,
  address: string,
  { at, request }: EventOf<'sent'>,
  context: RunContext,
): CallEnding {
  const when = new Date(at).toISOString().replace('.000', '');
  const message = `${request.method} ${request.url} went out at ${when}, and no answer came: it may have been done`;
  const advice = `Look at the server; then go on with --sent ${address} if it was done, or --not-sent ${address} if not.`;
  context.pausing.begin({ why: 'doubt', step: address, detail: `${message}. ${advice}` });
  return { exit: 130, cut: true, problem: problemOf(step, 'in-doubt', message, advice) };
}

/** Nothing stands in the record that could stand for sending it. */
export function notRecorded(step: CallStep): CallEnding {
  const message = `Nothing is recorded of "${step.name}" here, and nothing is sent`;
  return { exit: 1, problem: problemOf(step, 'not-recorded', message, 'Run the chain once as far as this call.') };
}

/** A change that was made is not made again for the file that came of it. */
export function savedChanged(step: CallStep, path: string): CallEnding {
  const message = `The file ${path} is not as this call saved it, and the call is not one to send again`;
  const advice = 'Put the file back, or say that it was not sent: --not-sent ADDRESS.';
  return { problem: problemOf(step, 'saved-file-changed', message, advice), exit: 1 };
}

/** A secret is in no record, and the call that gave it is not one to send again. */
export function secretGone(step: CallStep, name: string): CallEnding {
  const message = `The secret "${name}" is in no record, and the call that gave it is not one to send again`;
  const advice =
    'Say repeatable: true of the call where that does no harm, or send it once more with --not-sent ADDRESS.';
  return { problem: problemOf(step, 'secret-not-recorded', message, advice), exit: 1 };
}
