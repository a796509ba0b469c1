import type { ProblemRecord } from '../../journal/records.ts';
import type { CallStep, Paging } from '../../chain/model.ts';
import type { Code } from '../../diagnostics/catalogue.ts';
import { evaluate } from '../../expression/evaluate.ts';
import type { Frame } from '../../expression/frame.ts';
import type { PageRequest } from '../../http/build-request.ts';
import type { Endpoint } from '../../http/endpoint.ts';
import { isHttpUrl, originKey } from '../../http/message.ts';
import { fillFault, parameterValues, type Resolver } from '../../template/fill.ts';
import { equalValues } from '../../value/compare.ts';
import { counted, showValue } from '../../value/show.ts';
import { textOf } from '../../value/text.ts';
import { isList, type Value } from '../../value/value.ts';
import { valueNeeded } from '../condition.ts';
import { catchFillFault } from '../fill.ts';
import { problemOf } from './problems.ts';

/** What follows a page: a further one, none, or an error. */
type Turn = Readonly<{ page: PageRequest }> | Readonly<{ end: true }> | Readonly<{ problem: ProblemRecord }>;

/** The pages of a call that were read: their items, and where they were. */
export class Pages {
  count = 0;
  size = 0;
  readonly items: Value[] = [];
  private readonly urls = new Map<string, number>();
  private last: readonly Value[] = [];

  constructor(
    private readonly step: CallStep,
    private readonly paging: Paging,
    private readonly endpoint: Endpoint | undefined,
  ) {}

  /** Takes in a page whose expectations held: its items, or why they cannot be had. */
  take(url: string, size: number, frame: Frame): ProblemRecord | undefined {
    this.count++;
    this.size += size;
    const before = this.urls.get(url);
    if (before !== undefined) {
      const message = `Page ${this.count} is page ${before} again: ${url}`;
      return this.problem('paging-loop', message, `The link to the next page on page ${this.count - 1} leads back.`);
    }
    this.urls.set(url, this.count);
    const { items } = this.paging;
    if (!items) return undefined;
    const needed = valueNeeded(items, frame, 'items must be the array of each page.');
    if ('problem' in needed) return { ...needed.problem, message: `${needed.problem.message}, on page ${this.count}` };
    if (!isList(needed.value))
      return this.problem(
        'not-an-array',
        `items is ${showValue(needed.value, 40)} on page ${this.count}, which is not an array`,
      );
    const found = needed.value;
    if (found.length > 0 && equalValues(found, this.last)) {
      return this.problem(
        'paging-loop',
        `Pages ${this.count - 1} and ${this.count} have the same items`,
        'The parameter of the next page has no effect. To compare the two pages: batharon look',
      );
    }
    this.last = found;
    for (const item of found) this.items.push(item);
    return undefined;
  }

  /** What comes behind the page just taken. `url` is its own. */
  turn(url: string, frame: Frame, resolver: Resolver): Turn {
    const { paging, count } = this;
    const next = paging.next ? this.nextUrl(url, frame) : this.nextQuery(frame, resolver);
    if ('end' in next || 'problem' in next || count < paging.maxPages) return next;
    if (paging.thenStop) return { end: true };
    const message = `There are more than ${counted(paging.maxPages, 'page')}`;
    return {
      problem: this.problem(
        'too-many-pages',
        message,
        'Increase max-pages, or write max-pages: {count: N, then: stop}.',
      ),
    };
  }

  private nextUrl(url: string, frame: Frame): Turn {
    const { source, tree } = this.paging.next!;
    const { value, problem } = evaluate(tree!, frame);
    if (problem) return { problem: this.problem(problem.code, problem.message, problem.advice) };
    if (value === undefined || value === null || value === '') return { end: true };
    if (typeof value !== 'string' || !URL.canParse(value, url) || !isHttpUrl(new URL(value, url).href)) {
      return {
        problem: this.problem(
          'invalid-value',
          `${source.text.trim()} is ${showValue(value, 60)} on page ${this.count}, which is not an http or https URL`,
        ),
      };
    }
    const next = new URL(value, url).href;
    const before = this.urls.get(next);
    if (before !== undefined) {
      const message = `The page after page ${this.count} is page ${before} again: ${next}`;
      return { problem: this.problem('paging-loop', message, 'The API links to a page that was read already.') };
    }
    if (this.endpoint && originKey(next) !== originKey(url)) {
      const message = `The page after page ${this.count} is at another origin, ${new URL(next).origin}`;
      return { problem: this.problem('other-origin-page', message, 'Credentials are not sent there.') };
    }
    return { page: { url: next } };
  }

  private nextQuery(frame: Frame, resolver: Resolver): Turn {
    const goesOn = evaluate(this.paging.while!.tree!, frame);
    if (goesOn.problem)
      return { problem: this.problem(goesOn.problem.code, goesOn.problem.message, goesOn.problem.advice) };
    if (goesOn.value !== true) return { end: true };
    // Filled on this page, for the next one.
    const onPage: Resolver = {
      ...resolver,
      value: (placeholder) => {
        const { value, problem } = evaluate(placeholder.node, frame);
        return problem ? fillFault(placeholder.source, problem) : value;
      },
    };
    const query = catchFillFault(() =>
      this.paging.query!.map((entry) => ({
        ...entry,
        value: {
          kind: 'constant' as const,
          value: parameterValues(entry.value, onPage).map((each) => String(textOf(each))),
        },
      })),
    );
    return 'problem' in query ? query : { page: { query: query.value } };
  }

  private problem(code: Code, message: string, advice?: string): ProblemRecord {
    return problemOf(this.step, code, message, advice);
  }
}
