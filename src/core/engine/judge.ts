import type { CallStep, Expectation } from '../chain/model.ts';
import { wholeOf, type Source } from '../diagnostics/source.ts';
import type { ExpectRecord } from '../journal/events.ts';
import { namesRead } from './context.ts';
import { offered } from './expect/accept.ts';
import type { Judged, Judging } from './expect/definition.ts';
import { judgeEquals } from './expect/equals.ts';
import { judgeFits } from './expect/fits.ts';
import { judgeIncludes } from './expect/includes.ts';
import { judgeThat } from './expect/that.ts';
import { placeOf } from './places.ts';

/** Judges a response by every expectation: the default status first, then those of the call. All are tried. */
export async function judge(
  step: CallStep,
  status: number,
  stopsAtRedirect: boolean,
  judging: Judging,
): Promise<ExpectRecord[]> {
  const records: ExpectRecord[] = judgeStatus(step, status, stopsAtRedirect);
  for (const expectation of step.expect) {
    const record = recordOf(expectation, judgeOne(expectation, judging));
    records.push(await offered(expectation, record, judging));
  }
  return records;
}

/** Only what can be judged without a body: the default status. */
export function judgeStatus(step: CallStep, status: number, stopsAtRedirect: boolean): ExpectRecord[] {
  return readsStatus(step) ? [] : [defaultStatus(status, step, stopsAtRedirect)];
}

/** Whether a call says itself which status it expects; otherwise it is 2xx. */
function readsStatus(step: CallStep): boolean {
  return step.expect.some((each) => {
    const names = each.form === 'that' && each.expression.tree ? namesRead(each.expression.tree) : [];
    return names.includes('status') || names.includes('response');
  });
}

/** 2xx; also 3xx where redirects are the response, and 304 where the request was conditional (RFC 9110 section 13). */
function defaultStatus(status: number, { request }: CallStep, stopsAtRedirect: boolean): ExpectRecord {
  const conditional = request.headers.some(({ name }) => /^if-(none-match|modified-since)$/i.test(name));
  const held = status >= 200 && (status < 300 || (stopsAtRedirect && status < 400) || (conditional && status === 304));
  const text = stopsAtRedirect ? 'status is 2xx or 3xx' : 'status is 2xx';
  if (held) return { text, held, of: 'default' };
  const message = `The status is ${status}, and ${stopsAtRedirect ? '2xx or 3xx' : '2xx'} was expected`;
  return { source: placeOf(request.line!.source), text, held, of: 'default', code: 'unexpected-status', message };
}

function recordOf(expectation: Expectation, judged: Judged): ExpectRecord {
  const { because } = expectation;
  const source = sourceOf(expectation);
  return {
    source: placeOf(source),
    text: textFor(expectation, source),
    of: 'call',
    ...(because === undefined ? {} : { because }),
    ...judged,
  };
}

export function sourceOf(expectation: Expectation): Source {
  return expectation.form === 'that' ? expectation.expression.source : expectation.source;
}

/** How an expectation is written: the expression, or its key and what it says. */
function textFor(expectation: Expectation, source: Source): string {
  const text = source.text.slice(...wholeOf(source)).trim();
  return expectation.form === 'that' ? text : `${expectation.form}: ${text}`;
}

/** Judges by the form of the expectation; a new form is a file in `expect/` and a case below. */
function judgeOne(expectation: Expectation, judging: Judging): Judged {
  switch (expectation.form) {
    case 'that':
      return judgeThat(expectation, judging);
    case 'fits':
      return judgeFits(expectation, judging);
    case 'includes':
      return judgeIncludes(expectation, judging);
    case 'equals':
      return judgeEquals(expectation, judging);
  }
}
