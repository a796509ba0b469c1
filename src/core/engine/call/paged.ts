import type { CallStep, Paging } from '../../chain/model.ts';
import type { PageRequest } from '../../http/build-request.ts';
import { decodeBody, type Decoded } from '../../http/decode.ts';
import type { HttpResponse } from '../../http/message.ts';
import type { EventBody, ExpectRecord, ProblemRecord } from '../../journal/events.ts';
import { bindAll } from '../bind.ts';
import { responseFrame, type RunContext } from '../context.ts';
import type { Judging } from '../expect/definition.ts';
import { offered } from '../expect/accept.ts';
import { isOfEachPage, judge, judgeEntry } from '../judge.ts';
import { ResponseView, type ResponseAround } from '../response-names.ts';
import { sentEnding, type CallEnding } from './ending.ts';
import { Pages } from './pages.ts';
import { useItems } from '../../chain/paging.ts';
import { diagnosticIn } from '../../diagnostics/source.ts';
import { evaluate } from '../../expression/evaluate.ts';
import type { Frame } from '../../expression/frame.ts';
import type { PathNode } from '../../expression/model.ts';
import { eachPath } from '../../expression/names-read.ts';
import { isSingular } from '../../path/model.ts';
import { isList } from '../../value/value.ts';
import { problemRecord } from '../places.ts';
import { failedExpectation, problemOf, replyOf, undecodable } from './problems.ts';
import { answeredEvent } from './record.ts';
import { newEvents, requestsOf } from './requests.ts';

/** Reads page after page; expectations on status and headers are tested on each, all others behind the last. */
export async function pagedEnding(
  step: CallStep,
  address: string,
  paging: Paging,
  endpoint: ReturnType<RunContext['endpointOf']>,
  context: RunContext,
): Promise<CallEnding> {
  const pages = new Pages(step, paging, endpoint);
  const numbers: number[] = [];
  const expects: ExpectRecord[] = [];
  const onEach = { ...step, expect: step.expect.filter(isOfEachPage), keep: [] };
  let page: PageRequest | undefined;
  let tries = 1;
  for (let number = 1; ; number++) {
    const sender = requestsOf(step, address, endpoint, context);
    const sent = await sender.send({ page: number, ...(page ? { next: page } : {}) });
    const { tookMs = 0 } = sent;
    numbers.push(...sent.numbers);
    tries = Math.max(tries, sent.tries ?? 1);
    const unsent = sentEnding(step, address, sent, context);
    if (unsent || !('response' in sent)) return { ...unsent!, x: numbers, expects, tries };
    const { response, request, x, isOwn, refused } = sent;
    const decoded = decodeBody(response, step.readAs);
    const url = request.url;
    const around = {
      url,
      tookMs,
      pages: { count: number, items: paging.items && pages.items, size: pages.size, tries: numbers.length },
    };
    const frame = responseFrame(context, endpoint, new ResponseView(response, decoded, around, step.namespaces));
    const before = [answeredEvent(x, response, decoded, context)];
    const failed = (problem: ProblemRecord, exit = 1): CallEnding => ({
      before,
      x: numbers,
      expects,
      problem,
      exit,
      tries,
    });
    if (refused) return failed(problemOf(step, refused.code, refused.message, refused.advice));
    if (decoded.problem) return failed(undecodable(step, decoded), 3);
    const judging = { frame, exchange: x, endpoint, context };
    const records = judge(onEach, response.status, isOwn, judging, step).map((each) => ({
      ...each,
      page: number,
    }));
    expects.push(...records.filter((each) => number === 1 || !each.passed));
    if (records.some(({ passed }) => !passed)) {
      const problem = failedExpectation(records, replyOf(decoded, endpoint, frame));
      return failed({ ...problem, message: `${problem.message}, on page ${number}` });
    }
    const wrong = pages.take(url, response.body.length, frame);
    if (wrong) return failed(wrong);
    const turn = pages.turn(url, frame, sender.resolvers.real);
    if ('problem' in turn) return failed(turn.problem);
    if ('page' in turn) {
      context.recorder.record(...newEvents(context, before));
      page = turn.page;
      continue;
    }
    return {
      ...(await lastPageEnding(step, address, { pages, expects, judging, decoded, before, around }, response)),
      x: numbers,
      tries,
    };
  }
}

type LastPage = Readonly<{
  pages: Pages;
  expects: readonly ExpectRecord[];
  judging: Judging;
  decoded: Extract<Decoded, { value: unknown }>;
  before: readonly EventBody[];
  around: ResponseAround;
}>;

/** What is said of all pages parallel: `items` is the list over all of them, `$` the last page. */
async function lastPageEnding(
  step: CallStep,
  address: string,
  { pages, expects, judging, decoded, before, around }: LastPage,
  response: HttpResponse,
): Promise<CallEnding> {
  const { context, endpoint } = judging;
  const all = { ...around, pages: { ...around.pages!, count: pages.count, size: pages.size } };
  const view = new ResponseView(response, decoded, all, step.namespaces);
  const frame = responseFrame(context, endpoint, view);
  const overAll = step.expect.filter((each) => !isOfEachPage(each));
  const wrong = listOfLastPage(step, frame);
  if (wrong) return { before, expects: [...expects], exit: 1, problem: wrong };
  const records: ExpectRecord[] = [];
  for (const expectation of overAll) {
    const body = expectation.form === 'that' ? frame.body : pages.items;
    const ofAll = { ...judging, frame: { ...frame, body } };
    records.push(await offered(expectation, judgeEntry(expectation, ofAll), ofAll));
  }
  const told = [...expects, ...records];
  if (records.some(({ passed }) => !passed)) {
    return {
      before,
      expects: told,
      exit: 1,
      problem: failedExpectation(records, replyOf(decoded, endpoint, frame)),
    };
  }
  // What is kept of several pages stands in no single body, so the record holds it itself.
  const { binds, problems } = bindAll(step.keep, undefined, address, frame, context);
  const [problem] = problems;
  if (problem) return { before, expects: told, exit: 1, problem, problems };
  for (const { name, real } of binds) context.scope.bind(name, real, address);
  return {
    before,
    expects: told,
    exit: 0,
    binds: binds.map(({ real: _real, ...bind }) => bind),
    why: pagesWords(pages),
  };
}

/** A path to one value of the page that turns out to be a list: of all pages it would be another one. */
function listOfLastPage(step: CallStep, frame: Frame): ProblemRecord | undefined {
  const said = step.expect.flatMap((each) => (each.form === 'that' ? [each.expression] : []));
  for (const { tree, source } of [...said, ...step.keep.map(({ value }) => value)]) {
    const lists: PathNode[] = [];
    if (tree) {
      eachPath(tree, (path) => {
        if (path.start.kind === 'body' && isSingular(path.segments) && isList(evaluate(path, frame).value))
          lists.push(path);
      });
    }
    const [path] = lists;
    if (path) return problemRecord(diagnosticIn(source, useItems(source, path, step.paging!)));
  }
  return undefined;
}

function pagesWords({ count }: Pages): string {
  return count === 1 ? '1 page, no next page' : `${count} pages`;
}
