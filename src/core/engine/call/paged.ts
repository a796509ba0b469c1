import type { ExpectRecord, ProblemRecord } from '../../journal/records.ts';
import type { CallStep, Paging } from '../../chain/model.ts';
import { useItems } from '../../chain/paging.ts';
import { diagnosticIn } from '../../diagnostics/source.ts';
import { evaluate } from '../../expression/evaluate.ts';
import type { Frame } from '../../expression/frame.ts';
import type { PathNode } from '../../expression/model.ts';
import { eachPath } from '../../expression/names-read.ts';
import type { PageRequest } from '../../http/build-request.ts';
import { isSingular } from '../../path/model.ts';
import { isList } from '../../value/value.ts';
import { bindAll } from '../bind.ts';
import { offered } from '../expect/accept.ts';
import { isOfEachPage, judge, judgeEntry } from '../judge.ts';
import { problemRecord } from '../places.ts';
import { resultOfUnsent, type CallResult } from './finish.ts';
import { Pages } from './pages.ts';
import { failedExpectation, problemOf, replyOf, undecodable } from './problems.ts';
import { readResponse, type ReadResponse } from './read.ts';
import { answeredEvent, newEvents } from './record.ts';
import { requestsOf } from './requests.ts';
import type { CallSite } from './site.ts';

/** Reads page after page; expectations on status and headers are tested on each, all others behind the last. */
export async function pagedResult(site: CallSite, paging: Paging): Promise<CallResult> {
  const { step, endpoint, context } = site;
  const { recorder } = context.run;
  const pages = new Pages(step, paging, endpoint);
  const numbers: number[] = [];
  const expects: ExpectRecord[] = [];
  const onEach = { ...step, expect: step.expect.filter(isOfEachPage), keep: [] };
  let page: PageRequest | undefined;
  let tries = 1;
  for (let number = 1; ; number++) {
    const sender = requestsOf(site);
    const sent = await sender.send({ page: number, ...(page ? { next: page } : {}) });
    numbers.push(...sent.numbers);
    tries = Math.max(tries, sent.tries ?? 1);
    if (!('response' in sent)) return { ...resultOfUnsent(site, sent)!, x: numbers, expects, tries };
    const { response, request, x, isOwn, refused, tookMs = 0 } = sent;
    const seen = (count: number) => ({
      tookMs,
      pages: { count, items: paging.items && pages.items, size: pages.size, tries: numbers.length },
    });
    const read = readResponse(site, sent, seen(number));
    const { decoded, frame } = read;
    const before = [answeredEvent(x, response, decoded, recorder)];
    const failed = (problem: ProblemRecord, exit = 1): CallResult => ({
      before,
      x: numbers,
      expects,
      problem,
      exit,
      tries,
      tried: sent.tried,
    });
    if (refused) return failed(problemOf(step, refused.code, refused.message, refused.advice));
    if (decoded.problem) return failed(undecodable(step, decoded), 3);
    const records = judge(onEach, response.status, isOwn, read.judging, step).map((each) => ({
      ...each,
      page: number,
    }));
    expects.push(...records.filter((each) => number === 1 || !each.passed));
    if (records.some(({ passed }) => !passed)) {
      const problem = failedExpectation(records, replyOf(decoded, endpoint, frame));
      return failed({ ...problem, message: `${problem.message}, on page ${number}` });
    }
    const wrong = pages.take(request.url, response.body.length, frame);
    if (wrong) return failed(wrong);
    const turn = pages.turn(request.url, frame, sender.resolvers.real);
    if ('problem' in turn) return failed(turn.problem);
    if ('page' in turn) {
      recorder.record(...newEvents(site, before));
      page = turn.page;
      continue;
    }
    const all = readResponse(site, sent, seen(pages.count), decoded);
    return { ...(await resultOfAllPages(site, pages, all, expects)), before, x: numbers, tries };
  }
}

/** What is said of all pages together: `items` is the list over all of them, `$` the last page. */
async function resultOfAllPages(
  { step, endpoint, context }: CallSite,
  pages: Pages,
  { decoded, frame, judging, by }: ReadResponse,
  expects: readonly ExpectRecord[],
): Promise<CallResult> {
  const wrong = listOfLastPage(step, frame);
  if (wrong) return { expects: [...expects], exit: 1, problem: wrong };
  const records: ExpectRecord[] = [];
  for (const expectation of step.expect.filter((each) => !isOfEachPage(each))) {
    const body = expectation.form === 'that' ? frame.body : pages.items;
    const ofAll = { ...judging, frame: { ...frame, body } };
    records.push(await offered(expectation, judgeEntry(expectation, ofAll), ofAll));
  }
  const told = [...expects, ...records];
  if (records.some(({ passed }) => !passed))
    return { expects: told, exit: 1, problem: failedExpectation(records, replyOf(decoded, endpoint, frame)) };
  // What is kept of several pages stands in no single body, so the record holds it itself.
  const kept = bindAll(step.keep, frame, context, { by });
  return {
    expects: told,
    exit: 'problem' in kept ? 1 : 0,
    ...kept,
    ...('problem' in kept ? {} : { why: pagesWords(pages) }),
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
