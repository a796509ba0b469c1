import type { Bind } from '../../journal/records.ts';
import type { CallStep } from '../../chain/model.ts';
import type { SettledBody } from '../../journal/events.ts';
import { fromStored } from '../../journal/stored.ts';
import { placeOf } from '../places.ts';
import type { CallResult } from './finish.ts';
import type { CallSite } from './site.ts';
import { problemOf } from './problems.ts';

/** A request of which nobody knows whether it was done; without a time, whether it was sent at all. */
export type Doubt = Readonly<{ at: number | undefined; request: Readonly<{ method: string; url: string }> }>;

/**
 * A request went out, its answer never came, and it may not be sent twice: only who can look at the server knows whether it
 * was done. The run pauses until it is told.
 */
export function inDoubt({ step, context: { address, run } }: CallSite, doubt: Doubt): CallResult {
  const message = doubtWords(doubt);
  const advice = `Check at the server, then resume with --sent ${address} if it was processed, or --not-sent ${address} if not.`;
  run.pausing.begin({ why: 'doubt', step: address, detail: `${message}. ${advice}` });
  return { exit: 130, cut: true, problem: problemOf(step, 'in-doubt', message, advice) };
}

/** The same in words. */
export function doubtWords({ at, request: { method, url } }: Doubt): string {
  if (at === undefined)
    return `${method} ${url} may have been sent: the record is damaged, and does not say for which call something was sent`;
  const when = new Date(at).toISOString().replace('.000', '');
  return `${method} ${url} was sent at ${when} and never answered: the server may have processed it`;
}

/** A change that was made is not made again, as another request, unless a person says so. */
export function changedSinceSent(
  { step, context: { address, run } }: CallSite,
  differences: readonly string[],
): CallResult {
  const message = `${address} was done, and its request is a different one now: ${differences.join('; ')}`;
  const advice = `Resume with --resend ${address} to send it as it is now, or --skip ${address} to keep what was done.`;
  run.pausing.begin({ why: 'changed', step: address, detail: `${message}. ${advice}` });
  return { exit: 130, cut: true, problem: problemOf(step, 'changed-since-sent', message, advice) };
}

/** Takes a request as processed: what it kept is what a person said of it, and what nobody said is known not to be. */
export function takenAsSent({ step, context }: CallSite, { kept = {}, step: recordedAt }: SettledBody): CallResult {
  const { scope, address } = context;
  const binds: Bind[] = [];
  for (const { name, value } of step.keep) {
    const stored = kept[name];
    const said = stored && fromStored(stored);
    if (said === undefined) {
      // By the address that the record has: the call may have another name now.
      const how = `give it by batharon resume --kept ${recordedAt}:${name}=VALUE`;
      scope.lack(name, `${address} was taken as sent, and what it kept is not known; ${how}`);
    } else {
      scope.bind(name, said, address);
      binds.push({ name, value: stored!, text: value.source.text, source: placeOf(value.source), reads: [] });
    }
  }
  return { exit: 0, binds, why: 'taken as processed, as you said' };
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
