import { choice, expression, fileName, named, value } from '../../schema/leaves.ts';
import { eachHead } from '../../schema/each-head.ts';
import { wholeNumber } from '../../schema/measures.ts';
import { stepReader } from './definition.ts';

export const each = stepReader({
  key: 'each',
  about: 'A loop: runs its steps once for each item of an array, each time in a scope of its own.',
  shape: (steps) => ({
    each: eachHead().describe('NAME in ARRAY: the name of an item, and the array.'),
    steps: steps().optional().describe('The steps for each item; optional with gather.'),
    'identified-by': expression()
      .optional()
      .describe('The value that identifies an item in messages and when a run resumes.'),
    concurrency: wholeNumber('a number of items')
      .optional()
      .describe('The largest number of items at the same time. Default: 1.'),
    'on-failure': choice('stop', 'continue')
      .optional()
      .describe('stop: a failed item ends the loop (the default); continue: the other items run.'),
    'max-consecutive-failures': wholeNumber('a number of items')
      .optional()
      .describe('Ends the loop after this many failed items in a row.'),
    gather: named(value()).optional().describe('Arrays with a value of each item that passed, by name.'),
    rejects: fileName().optional().describe('A file for the failed items, with the step and the reason.'),
    cookies: choice('own').optional().describe('own: each item has its own cookies.'),
  }),
  read: (given) => ({
    kind: 'each',
    name: given.each?.name.text ?? '',
    nameSource: given.each!.name,
    list: given.each!.list,
    head: given.each!.head,
    steps: given.steps ?? [],
    identifiedBy: given['identified-by'],
    concurrency: Math.max(1, given['concurrency'] ?? 1),
    onFailure: given['on-failure'] ?? 'stop',
    maxConsecutiveFailures: given['max-consecutive-failures'],
    gather: given.gather ?? [],
    rejects: given.rejects,
    ownCookies: given.cookies === 'own',
  }),
});
