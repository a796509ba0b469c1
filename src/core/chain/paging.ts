import * as z from 'zod';
import { choice, expression, named, parameter } from '../schema/leaves.ts';
import { wholeNumber } from '../schema/measures.ts';
import { mapping } from '../schema/shape.ts';
import type { Problem } from '../diagnostics/problem.ts';
import type { Source } from '../diagnostics/source.ts';
import type { PathNode } from '../expression/model.ts';
import type { Paging } from './model.ts';

/** Pages unless said. */
const MAX_PAGES = 100;

const maxPages = z.union([
  wholeNumber('a number of pages').transform((count) => ({ count, then: undefined })),
  mapping({
    count: wholeNumber('a number of pages').describe('How many pages are read.'),
    then: choice('stop', 'fail').optional().describe('stop: more of them is no mistake.'),
  }),
]);

/** How the pages of a call follow each other. */
export const paging = () =>
  mapping({
    next: expression('the next URL, or nothing').optional().describe('The URL of the next page; nothing ends.'),
    query: named(parameter()).optional().describe('Query parameters of the next page, in place of a next URL.'),
    while: expression('a condition').optional().describe('With query: whether there is a next page.'),
    items: expression('the list in one page')
      .optional()
      .describe('The list in a page; items is then that of all pages.'),
    'max-pages': maxPages.optional().describe('How many pages there may be; 100 unless said.'),
  }).transform((given): Paging => ({
    next: given.next,
    query: given.query,
    while: given.while,
    items: given.items,
    maxPages: given['max-pages']?.count ?? MAX_PAGES,
    thenStop: given['max-pages']?.then === 'stop',
  }));

/** What is wrong with a list that is read from `$` in a paged call, and the path over all pages in its place. */
export function useItems(source: Source, path: PathNode, paging: Paging): Problem {
  const items = paging.items?.source.text.trim();
  const text = source.text.slice(...path.range);
  const instead = items !== undefined && text.startsWith(items) ? `items${text.slice(items.length)}` : 'items';
  const advice =
    items === undefined
      ? 'Say items: under paging; the name items is then the list over all pages.'
      : `Write ${instead}: the list over all pages.`;
  return { code: 'use-items', range: path.range, message: `${text} is the list of the last page alone`, advice };
}
