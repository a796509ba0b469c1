import * as z from 'zod';
import type { RetryRule } from '../http/endpoint.ts';
import { DEFAULT_RETRY, type RetryOn } from '../pacing/retry.ts';
import { leaf, reportAt } from '../schema/leaf.ts';
import { expression } from '../schema/leaves.ts';
import { pause, wholeNumber } from '../schema/measures.ts';
import { mapping } from '../schema/shape.ts';

const retryOn = () =>
  leaf(
    'connection, timeout, a status, or a class of statuses such as 5xx',
    (scalar, reading): RetryOn | undefined => {
      const text = scalar.source.text.trim();
      if (text === 'connection' || text === 'timeout') return text;
      if (/^[1-5]xx$/.test(text)) return text as RetryOn;
      if (/^[1-5]\d\d$/.test(text)) return Number(text);
      const advice = 'Write connection, timeout, a status such as 503, or a class such as 5xx.';
      reportAt(reading, scalar, 'wrong-type', `"${text}" is not a reason to retry`, advice);
      return undefined;
    },
    { type: ['string', 'integer'] },
  );

/** How a failed request is tried again. */
export const retry = () =>
  mapping({
    tries: wholeNumber('a number of requests')
      .optional()
      .describe('The number of requests in all, including the first. Default: 3.'),
    wait: pause().optional().describe('The pause before a retry, doubling, with full jitter. Default: 500ms to 10s.'),
    on: z
      .union([retryOn().transform((one) => [one]), z.array(retryOn())])
      .optional()
      .describe('When to retry: connection, timeout, statuses, classes such as 5xx.'),
    after: expression()
      .optional()
      .describe('What the response says to wait, a duration: $.estimated_time * 1s. Nothing leaves it to wait.'),
  }).transform((given): RetryRule => ({
    tries: Math.max(1, given.tries ?? DEFAULT_RETRY.tries),
    wait: given.wait ?? DEFAULT_RETRY.wait,
    on: given.on?.filter((each) => each !== undefined) ?? DEFAULT_RETRY.on,
    after: given.after,
  }));
