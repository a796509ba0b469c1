import { choice, expression, fileName, flag, named, value } from '../../schema/leaves.ts';
import { eachHead } from '../../schema/each-head.ts';
import { wholeNumber } from '../../schema/measures.ts';
import { stepKind } from './definition.ts';
import { placeholdersOf } from '../../template/template.ts';
import { bindingOf, expressionPart, namedParts, textPart } from '../parts.ts';

export const each = stepKind({
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
    replace: flag().optional().describe('Whether a rejects name with a placeholder may replace a file that exists.'),
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
    replace: given.replace ?? false,
    ownCookies: given.cookies === 'own',
  }),
  parts: (step) => [
    ...expressionPart(step.list),
    ...textPart(step.rejects, 'file-written', { key: 'rejects' }),
    {
      sort: 'scope',
      of: 'item',
      text: `each ${step.head.text.trim()}`,
      parts: [
        bindingOf(step.name, step.nameSource.locate([0, step.name.length]), {
          what: 'item',
          by: `an item of ${step.list.source.text.trim()}`,
          from: step.list.tree ? [step.list.tree] : [],
          kind: undefined,
        }),
        ...expressionPart(step.identifiedBy, { key: 'identified-by' }),
        { sort: 'steps', steps: step.steps, order: 'one-by-one' },
        ...namedParts(step.gather, 'value', { key: 'gather' }),
      ],
    },
    ...step.gather.map(({ name, nameRange, value: gathered }) =>
      bindingOf(name, nameRange, {
        what: 'gather',
        by: 'gathered by a loop',
        from: placeholdersOf(gathered).map(({ node }) => node),
        kind: 'array',
      }),
    ),
  ],
  nameOf: ({ name }) => name,
  sourceOf: ({ head }) => head,
});
