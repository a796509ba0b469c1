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
    count: wholeNumber('a number of pages').describe('The largest number of pages.'),
    then: choice('stop', 'fail').optional().describe('stop: more pages are not an error.'),
  }),
]);

/** How the pages of a call follow each other. */
export const paging = () =>
  mapping({
    next: expression('the next URL, or nothing')
      .optional()
      .describe('The URL of the next page; nothing ends the paging.'),
    query: named(parameter()).optional().describe('Query parameters of the next page, instead of a next URL.'),
    while: expression('a condition').optional().describe('With query: whether there is a next page.'),
    items: expression('the array in one page')
      .optional()
      .describe('The array in a page; the name items is then the array over all pages.'),
    'max-pages': maxPages.optional().describe('The largest number of pages. Default: 100.'),
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
      ? 'Add items under paging; the name items is then the array over all pages.'
      : `Write ${instead}, the array over all pages.`;
  return { code: 'use-items', range: path.range, message: `${text} is the array of the last page only`, advice };
}
