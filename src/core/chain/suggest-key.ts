import { nearest } from '../diagnostics/suggest.ts';

/** Words for the same thing from everyday use; the key that was meant, where it is known at that place. */
const MEANINGS: Readonly<Record<string, readonly string[]>> = {
  expect: [
    'assert',
    'asserts',
    'assertion',
    'assertions',
    'check',
    'checks',
    'verify',
    'validate',
    'test',
    'tests',
    'should',
    'ensure',
  ],
  keep: [
    'extract',
    'extracts',
    'store',
    'save-as',
    'capture',
    'captures',
    'set',
    'register',
    'export',
    'output',
    'outputs',
    'variables',
    'vars',
  ],
  json: ['body', 'data', 'payload', 'content'],
  request: ['method', 'url', 'path', 'endpoint', 'http', 'target', 'uri'],
  query: ['params', 'parameters', 'querystring', 'search', 'qs'],
  headers: ['header'],
  inputs: ['inputs', 'input', 'params', 'parameters', 'arguments', 'args', 'vars', 'variables', 'with'],
  outputs: ['outputs', 'output', 'returns', 'return', 'result', 'results'],
  steps: ['requests', 'calls', 'tasks', 'actions', 'scenario', 'flow'],
  call: ['name', 'id', 'step', 'title', 'request'],
  about: ['description', 'desc', 'comment', 'note', 'summary', 'doc'],
  auth: ['authentication', 'authorization', 'credentials', 'login', 'security'],
  bearer: ['token', 'jwt', 'access-token'],
  'api-key': ['key', 'apikey', 'api_key'],
  settings: ['vars', 'variables', 'env', 'environment', 'config'],
  deployments: ['environments', 'envs', 'stages', 'servers', 'profiles', 'instances'],
  'default-deployment': ['default', 'environment', 'env', 'server', 'use'],
  url: ['base-url', 'baseurl', 'base_url', 'host', 'server', 'endpoint', 'uri'],
  wait: ['sleep', 'delay', 'pause'],
  if: ['condition', 'branch'],
  when: ['only-if', 'if', 'unless', 'condition', 'run-if'],
  otherwise: ['else', 'elseif', 'orelse'],
  stop: ['fail', 'exit', 'abort', 'end', 'quit'],
  say: ['print', 'log', 'echo', 'message', 'debug'],
  schema: ['schema', 'matches-schema', 'json-schema', 'conforms'],
  includes: ['contains', 'subset', 'has', 'partial'],
  equals: ['equal', 'is', 'snapshot', 'same-as', 'eq'],
  zone: ['timezone', 'time-zone', 'tz'],
  timeout: ['time-limit', 'timeouts', 'deadline'],
  apis: ['api', 'services', 'service', 'servers', 'hosts'],
};

/** What to say of an unknown key, and the key that was meant, if one is near. */
export type KeySuggestion = Readonly<{ advice?: string; meant?: string }>;

/** Suggestions for the keys of one mapping, none for those of mappings inside it. */
export function suggestAmong(shape: object): (key: string, path: readonly PropertyKey[]) => KeySuggestion {
  return (key, path) => (path.length === 0 ? suggestKey(key, Object.keys(shape)) : {});
}

/** What to do about an unknown key: the one that was meant, by meaning or spelling, else those that there are. */
export function suggestKey(key: string, known: readonly string[]): KeySuggestion {
  const lower = key.toLowerCase();
  const byMeaning = known.find((each) => MEANINGS[each]?.includes(lower));
  const meant = byMeaning ?? nearest(key, known);
  if (meant !== undefined) return { advice: `Did you mean "${meant}"?`, meant };
  return known.length === 0 ? {} : { advice: `The keys here are ${known.join(', ')}.` };
}
