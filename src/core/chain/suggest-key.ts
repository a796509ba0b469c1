import { nearest } from '../diagnostics/suggest.ts';

/** Words for the same thing from everyday use; the key that was meant, where it is known at that place. */
const MEANINGS: Readonly<Record<string, string>> = {
  expect: 'assert asserts assertion assertions check checks verify validate test tests should ensure expected require',
  keep: 'extract extracts store save-as capture captures set register export output outputs variables vars remember-as',
  json: 'body data payload content',
  request: 'method url path endpoint http target uri',
  query: 'params parameters querystring search qs',
  headers: 'header',
  inputs: 'input params parameters arguments args vars variables with',
  outputs: 'output returns return result results',
  steps: 'requests calls tasks actions scenario flow',
  call: 'name id step title request',
  about: 'description desc comment note summary doc',
  auth: 'authentication authorization credentials login security',
  bearer: 'token jwt access-token',
  'api-key': 'key apikey api_key',
  settings: 'vars variables env environment config',
  deployments: 'environments envs env environment stages servers profiles instances',
  'default-deployment': 'default environment env server use',
  url: 'base-url baseurl base_url host server endpoint uri',
  each: 'for foreach for-each loop iterate over with-items',
  parallel: 'concurrent concurrently simultaneously async fork',
  concurrency: 'parallel parallelism concurrent workers threads max-parallel',
  retry: 'retries attempts retrying',
  tries: 'attempts retries max-attempts count max',
  'rate-limit': 'rate throttle limit limits ratelimit rps quota',
  cleanup: 'teardown finally after always after-all tear-down',
  chain: 'include import use uses subchain workflow',
  'on-failure': 'on-error continue-on-error ignore-errors allow-failure',
  poll: 'polling wait-until until-success wait-for',
  paging: 'pagination paginate pages page',
  'idempotency-key': 'idempotent idempotency',
  undo: 'rollback revert compensate',
  wait: 'sleep delay pause',
  if: 'condition branch',
  when: 'only-if if unless condition run-if',
  otherwise: 'else elseif orelse',
  stop: 'fail exit abort end quit',
  say: 'print log echo message debug',
  listen: 'webhook callback server',
  receive: 'webhook callback await-callback',
  schema: 'matches-schema json-schema conforms',
  includes: 'contains subset has partial',
  equals: 'equal is snapshot same-as eq',
  save: 'download save-to output-file',
  multipart: 'upload files attachments',
  form: 'urlencoded form-data',
  zone: 'timezone time-zone tz',
  timeout: 'time-limit timeouts deadline',
  'max-wait': 'retry-after max-delay',
  tls: 'ssl certificate certificates ca cert insecure',
  columns: 'fields types',
  table: 'csv rows data-file',
  apis: 'api services service servers hosts',
};

const words = new Map(Object.entries(MEANINGS).map(([key, list]) => [key, new Set(list.split(' '))]));

/** The keys that a word from everyday use means. */
export function keysMeant(word: string): readonly string[] {
  return [...words].flatMap(([key, list]) => (list.has(word) ? [key] : []));
}

/** Words that mean more than another key: what to write instead, where a key is known. */
const REWRITES: Readonly<Record<string, readonly [known: string, advice: string]>> = {
  status: ['expect', 'Write expect: [status == 200].'],
  'continue-on-error': ['on-failure', 'Write on-failure: continue.'],
  'ignore-errors': ['on-failure', 'Write on-failure: continue.'],
};

/** What to say of an unknown key, and the key that was meant, if one is near. */
type KeySuggestion = Readonly<{ advice?: string; meant?: string }>;

/** Suggestions for the keys of one mapping, none for those of mappings inside it. */
export function suggestAmong(shape: object): (key: string, path: readonly PropertyKey[]) => KeySuggestion {
  return (key, path) => (path.length === 0 ? suggestKey(key, Object.keys(shape)) : {});
}

/** What to do about an unknown key: the one that was meant, by meaning or spelling, else those that there are. */
export function suggestKey(key: string, known: readonly string[]): KeySuggestion {
  const lower = key.toLowerCase();
  const rewrite = REWRITES[lower];
  if (rewrite && known.includes(rewrite[0])) return { advice: rewrite[1] };
  const byMeaning = known.find((each) => words.get(each)?.has(lower));
  const meant = byMeaning ?? nearest(key, known);
  if (meant !== undefined) return { advice: `Did you mean "${meant}"?`, meant };
  return known.length === 0 ? {} : { advice: `The keys here are ${known.join(', ')}.` };
}
