import type * as z from 'zod';
import { auth } from '../http/auth/list.ts';
import {
  choice,
  expression,
  fileName,
  flag,
  named,
  parameter,
  sourcedConstant,
  text,
  word,
  type NamedEntry,
} from '../schema/leaves.ts';
import { duration, rateLimit, resets, wholeNumber } from '../schema/measures.ts';
import { mapping } from '../schema/shape.ts';
import { retry } from './retry.ts';
import { contract } from './contract-key.ts';
import { expectations } from './steps/expect/list.ts';
import { timeout } from './timeout.ts';

/** The keys of an API that its deployments may have as well. */
export const shared = {
  url: text('a URL').optional().describe('The base URL, without a query.'),
  auth: auth().optional(),
  headers: named(parameter()).optional().describe('Headers of every request.'),
  query: named(parameter()).optional().describe('Query parameters of every request.'),
  timeout: timeout.optional().describe('The time limit of one request.'),
  'rate-limit': rateLimit().optional().describe('The rate limit: 8/s, 100/min, 1000/day, or an array of them.'),
  resets: resets().optional().describe('When quotas of days and months start again. Default: 00:00 UTC.'),
  concurrency: wholeNumber('a number of requests')
    .optional()
    .describe('The largest number of requests in flight. Default: 6.'),
  'total-concurrency': wholeNumber('a number of requests')
    .optional()
    .describe('The largest number of requests in flight of all processes together. It needs redis.'),
  'max-wait': duration().optional().describe("The longest time to wait for a server's Retry-After. Default: 1m."),
  retry: retry().optional().describe('How failed requests are retried: tries, wait, on.'),
  changes: choice('when-allowed', 'never')
    .optional()
    .describe('when-allowed: POST, PUT, PATCH and DELETE need --allow-changes; never: they are refused.'),
  redirects: choice('follow', 'stop')
    .optional()
    .describe('follow: redirects are followed (the default); stop: they are the response.'),
  tls: mapping({
    ca: fileName().optional().describe('A file with trusted certificate authorities (PEM).'),
    cert: fileName().optional().describe('A file with the client certificate (PEM).'),
    key: fileName().optional().describe('A file with the key of the client certificate (PEM).'),
    verify: flag()
      .optional()
      .describe('false: the certificate of the server is not verified, with a warning on every run.'),
  })
    .optional()
    .describe('Certificates, if those of the system are not sufficient.'),
  proxy: text('a URL').optional().describe('A proxy, instead of the one in the environment; none for no proxy.'),
  'connect-to': text('a host and a port')
    .optional()
    .describe('Where to connect instead: 127.0.0.1:8443. The name in the URL, in TLS and in Host stays.'),
  unix: text('the path of a socket').optional().describe('The Unix domain socket to connect to, by its absolute path.'),
  http2: flag().optional().describe('Whether HTTP/2 is offered to the server.'),
  expect: expectations().optional().describe('Expectations on every response, in addition to those of each call.'),
  contract: contract
    .optional()
    .describe('An OpenAPI description: requests are checked before they are sent, and every response is judged by it.'),
  'error-message': expression().optional().describe('Where an error response describes the error.'),
  settings: named(sourcedConstant()).optional().describe('Values that differ between deployments and are not secret.'),
};

export const deployment = mapping(shared);

export const api = mapping({
  ...shared,
  about: word().optional().describe('What the API is for.'),
  deployments: named(deployment).optional().describe('The deployments of the API, by name.'),
  'default-deployment': word('the name of a deployment').optional().describe('The deployment to use by default.'),
});

export type Shared = z.output<typeof deployment>;
export type ApiEntry = NamedEntry<z.output<typeof api>>;

/** What is never shared between deployments: it says who is let in, or how. */
export const OWN_KEYS = ['auth', 'tls', 'proxy', 'connect-to', 'unix'] as const;
