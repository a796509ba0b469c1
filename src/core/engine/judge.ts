import type { ExpectRecord } from '../journal/records.ts';
import type { CallStep } from '../chain/model.ts';
import type { Expectation } from '../http/expectation.ts';
import { wholeOf, type Source } from '../diagnostics/source.ts';
import { evaluate } from '../expression/evaluate.ts';
import type { Frame } from '../expression/frame.ts';
import type { Endpoint } from '../http/endpoint.ts';
import { counted, showValue } from '../value/show.ts';
import { isList, memberOf } from '../value/value.ts';
import { stopsAtRedirect } from './call/redirects.ts';
import { namesRead } from '../expression/names-read.ts';
import type { Judged, Judging } from './expect/definition.ts';
import { judgeContract } from './expect/contract.ts';
import { judgeEquals } from './expect/equals.ts';
import { judgeSchema } from './expect/schema.ts';
import { judgeIncludes } from './expect/includes.ts';
import { judgeThat } from './expect/that.ts';
import { placeOf } from './places.ts';

/**
 * Judges a response by every expectation: the default status first, then those of the api and its
 * description, then those of the call. All
 * are tried. `isOwn` says whether the response came from the api's own origin; `step` may hold a part of the entries of a
 * `whole` call, which decide whether a status is expected by default.
 */
export function judge(
  step: CallStep,
  status: number,
  isOwn: boolean,
  judging: Judging,
  whole: CallStep = step,
): ExpectRecord[] {
  const { endpoint } = judging;
  const records: ExpectRecord[] = [...judgeStatus(whole, status, endpoint), ...judgeGraphql(step, judging)];
  for (const expectation of isOwn ? expectationsOf(endpoint, step) : []) {
    records.push({ ...recordOf(expectation, judgeOne(expectation, judging)), of: 'api' });
  }
  records.push(...judgeContract(judging));
  for (const expectation of step.expect) records.push(judgeEntry(expectation, judging));
  return records;
}

/** Judges one entry of a call. */
export function judgeEntry(expectation: Expectation, judging: Judging): ExpectRecord {
  return recordOf(expectation, judgeOne(expectation, judging));
}

/** Whether an expectation of a paged call is tested on each page: what it reads is of the page alone, or it is a schema. */
export function isOfEachPage(expectation: Expectation): boolean {
  if (expectation.form !== 'that') return expectation.form === 'schema';
  const read = names(expectation);
  return read.length > 0 && read.every((name) => ['status', 'headers', 'took', 'url'].includes(name));
}

/** What can be judged without a body: the default status. */
export function judgeStatus(step: CallStep, status: number, endpoint: Endpoint | undefined): ExpectRecord[] {
  return readsStatus(step) ? [] : [defaultStatus(status, step, stopsAtRedirect(step, endpoint))];
}

/** Whether what can be judged at the headers holds: the default status, or else entries that read only status and headers. */
export function judgeHead(step: CallStep, status: number, endpoint: Endpoint | undefined, frame: Frame): boolean {
  const early = step.expect.filter((each) => names(each).every((name) => name === 'status' || name === 'headers'));
  return (
    judgeStatus(step, status, endpoint).every(({ passed }) => passed) &&
    early.every((each) => each.form !== 'that' || evaluate(each.expression.tree!, frame).value === true)
  );
}

/** Expectations of the api; those that read a body which is not held are left out. */
function expectationsOf(endpoint: Endpoint | undefined, step: CallStep): readonly Expectation[] {
  const all = endpoint?.expect ?? [];
  const isHeld = step.save === undefined && step.readAs !== 'bytes';
  return isHeld ? all : all.filter((each) => each.form === 'that' && !names(each).includes('$'));
}

/** A GraphQL response with errors fails, unless the call itself speaks of them (GraphQL section 7.1). */
function judgeGraphql(step: CallStep, { frame: { body } }: Judging): ExpectRecord[] {
  const errors = step.request.body?.key === 'graphql' ? memberOf(body, 'errors') : undefined;
  if (!isList(errors) || errors.length === 0) return [];
  const speaks = step.expect.some((each) => sourceOf(each).text.includes('errors'));
  if (speaks) return [];
  const message = `The response has ${counted(errors.length, 'error')}: ${showValue(memberOf(errors[0], 'message') ?? errors[0]!)}`;
  const source = placeOf(step.request.line!.source);
  return [{ source, text: '$.errors is empty', passed: false, of: 'default', code: 'expectation-false', message }];
}

const known = new WeakMap<CallStep, boolean>();

/** Whether a call says itself which status it expects; otherwise it is 2xx. Worked out once for each call. */
function readsStatus(step: CallStep): boolean {
  let reads = known.get(step);
  if (reads === undefined) known.set(step, (reads = statusIsRead(step)));
  return reads;
}

function statusIsRead(step: CallStep): boolean {
  const waited = [step.poll?.until, step.poll?.giveUpWhen].flatMap((each) => (each?.tree ? namesRead(each.tree) : []));
  if (waited.some((name) => name === 'status' || name === 'response')) return true;
  return step.expect.some((each) => names(each).some((name) => name === 'status' || name === 'response'));
}

/** The names that an expectation reads; one that is no expression reads the body. */
function names(expectation: Expectation): readonly string[] {
  if (expectation.form !== 'that') return ['$'];
  return expectation.expression.tree ? namesRead(expectation.expression.tree) : [];
}

/** 2xx; also 3xx where redirects are the response, and 304 where the request was conditional (RFC 9110 section 13). */
function defaultStatus(status: number, { request, isUndo, poll }: CallStep, stopsAtRedirect: boolean): ExpectRecord {
  const isConditional = request.headers.some(({ name }) => /^if-(none-match|modified-since)$/i.test(name));
  const alsoMeant = [...(isUndo ? [404, 410] : []), ...(isConditional ? [304] : [])];
  const passed = alsoMeant.includes(status) || (status >= 200 && status < (stopsAtRedirect ? 400 : 300));
  const text = stopsAtRedirect ? 'status is 2xx or 3xx' : 'status is 2xx';
  if (passed) return { text, passed, of: 'default' };
  const message = `The status is ${status}, expected ${stopsAtRedirect ? '2xx or 3xx' : '2xx'}`;
  const advice =
    poll && status >= 500
      ? { advice: 'For failures in between: retry, of the call or of its API, holds for each poll.' }
      : {};
  const source = placeOf(request.line!.source);
  return { source, text, passed, of: 'default', code: 'unexpected-status', message, ...advice };
}

/** The record of an expectation, with what judging it said. */
export function recordOf(expectation: Expectation, judged: Judged): ExpectRecord {
  const { because } = expectation;
  const source = sourceOf(expectation);
  return {
    source: placeOf(source),
    text: textFor(expectation, source),
    of: 'call' as const,
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
    case 'schema':
      return judgeSchema(expectation, judging);
    case 'includes':
      return judgeIncludes(expectation, judging);
    case 'equals':
      return judgeEquals(expectation, judging);
  }
}
