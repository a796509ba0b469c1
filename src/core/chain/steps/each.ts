import { choice, expression, fileName, named, value } from '../../schema/leaves.ts';
import { eachHead } from '../../schema/each-head.ts';
import { wholeNumber } from '../../schema/measures.ts';
import { stepReader } from './definition.ts';

export const each = stepReader({
  key: 'each',
  about: 'A loop: its steps once for each item of a list, each time in a scope of its own.',
  shape: (steps) => ({
    each: eachHead().describe('NAME in LIST: the name of an item, and the list.'),
    steps: steps().optional().describe('The steps for each item; they may be left out when only gathering.'),
    'identified-by': expression().optional().describe('What an item is known by in messages and when a run goes on.'),
    concurrency: wholeNumber('a number of items')
      .optional()
      .describe('How many items at the same time; 1 unless said.'),
    'on-failure': choice('stop', 'continue')
      .optional()
      .describe('Whether the failure of an item ends the loop (default), or the others go on.'),
    'max-consecutive-failures': wholeNumber('a number of items')
      .optional()
      .describe('Ends the loop after so many failures in a row, however they are taken.'),
    gather: named(value()).optional().describe('Lists of a value of each item that passed, by name.'),
    rejects: fileName().optional().describe('A file for the items that failed, with the step and the reason.'),
    cookies: choice('own').optional().describe('own: each item has cookies of its own.'),
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
