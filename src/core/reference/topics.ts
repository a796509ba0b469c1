import type { Page, PageGroup } from './page.ts';

type Topic = Readonly<{
  name: string;
  /** Words that people look for when they mean it. */
  alias: readonly string[];
  heading: string;
  paragraphs: readonly string[];
  example?: string;
}>;

/** What concerns more than one key. */
const TOPICS: readonly Topic[] = [
  {
    name: 'braces',
    alias: [
      'brace',
      'literal-brace',
      'curly',
      'escape',
      'escaping',
      'placeholder',
      'placeholders',
      'template',
      'templates',
      'interpolation',
      'variable',
      'substitution',
    ],
    heading: 'braces: placeholders and literal braces',
    paragraphs: [
      'In a string, {expression} is a placeholder: its value is inserted, encoded for its place. A string that is one placeholder keeps the type of its value.',
      'A literal brace is written twice: {{ and }}. In a URL write %7B and %7D. JSON is written as YAML under json, not as a string.',
    ],
    example: "- say: 'the set {{1, 2}} and {length(due)} vessels'",
  },
  {
    name: 'omitting',
    alias: [
      'omit',
      'omitted',
      'leaving-out',
      'leave-out',
      'optional-parameter',
      'skip-parameter',
      'undefined',
      'empty-parameter',
    ],
    heading: 'omitting: leaving out a parameter, member or header',
    paragraphs: [
      'An optional input that was not given leaves out its query parameter, JSON member, form field or header when it is the whole value. In a target write {?name}.',
      'null leaves out a query parameter, form field or header, also one that the API sets; in json it is sent as null.',
    ],
    example:
      'inputs: { flag: { type: string, optional: true } }\nsteps:\n  - call: arrivals\n    request: GET /arrivals{?flag}',
  },
  {
    name: 'null',
    alias: ['nil', 'none', 'nothing', 'missing', 'absent', 'undefined-value', 'default-value', 'coalesce', 'fallback'],
    heading: 'null: null, nothing and missing values',
    paragraphs: [
      'A path that finds nothing never satisfies an expectation. exists(x) tests whether it finds anything; x ?? value gives a value for the case that it is nothing or null.',
      'null is a value of JSON: x == null is true only if the member exists and is null.',
    ],
    example: '$.next_cursor ?? null',
  },
  {
    name: 'exit-status',
    alias: ['exit', 'exit-code', 'exit-codes', 'exit-statuses', 'status-code-of-run', 'return-code', 'ci'],
    heading: 'exit-status: the exit status of a command',
    paragraphs: [
      '0: everything passed. 1: an expectation, a poll or another step failed. 2: a file, an input or the command line is wrong, and nothing was sent. 3: no usable response (network, time limit), --within was reached, or a request is in doubt. 4: an internal error. 5: a quota is spent and the run is paused. 130: interrupted.',
      'With several runs the first of 130, 4, 2, 5, 3, 1, 0 that applies is the status. Runs that end with 3, 5 or 130 can be resumed.',
    ],
  },
  {
    name: 'conditions',
    alias: [
      'condition',
      'boolean-logic',
      'and',
      'or',
      'comparison',
      'compare-values',
      'operators',
      'operator',
      'truthy',
    ],
    heading: 'conditions: what is true or false',
    paragraphs: [
      'A condition compares (== != < <= > >= in), joins (&& ||) or negates (! not()). There is no truthiness: write exists(x) or x == true instead of a path by itself.',
      'Values of different types are never equal, and nothing is converted implicitly. Comparisons are not chained: a < b && b < c.',
    ],
    example: "$.state in ['cleared', 'moored'] && $.depth > 7",
  },
  {
    name: 'dates',
    alias: ['date', 'time', 'times', 'datetime', 'timestamp', 'clock', 'timezone', 'tomorrow', 'yesterday', 'day'],
    heading: 'dates: dates, times and durations',
    paragraphs: [
      "A date is a string YYYY-MM-DD; date_time('2026-05-23') makes a point in time of it, at the start of the day in the project's zone. today() and now() read the run's clock, which --now sets.",
      'A date-time plus a duration is a date-time; the difference of two date-times is a duration. Durations are written 250ms, 1.5s, 2m, 1h, 3d.',
    ],
    example: "formatted(now() + 1d, 'yyyy-MM-dd')",
  },
  {
    name: 'webhooks',
    alias: ['webhook', 'callback', 'callbacks', 'notification'],
    heading: 'webhooks: receiving callbacks',
    paragraphs: [
      'listen opens an address, whose URL is NAME.url; send it to the API in a call. receive waits for the request, checks it and keeps values of it.',
      'An address on this machine is not reachable from outside; public says under which URL it is.',
    ],
    example:
      "- listen: notice\n- call: ask\n  request: POST /notices\n  json: { callback: '{notice.url}' }\n- receive: notice\n  within: 30s",
  },
  {
    name: 'masking',
    alias: [
      'mask',
      'secrets',
      'credential',
      'credentials',
      'password-in-file',
      'token-in-file',
      'env',
      'environment-variable',
      'dotenv',
    ],
    heading: 'masking: secrets and where they are kept',
    paragraphs: [
      '{secret.NAME} is read from the environment variable NAME, from the file that NAME_FILE names, or from secrets.env next to batharon.yaml. It is masked as ‹NAME› in everything that batharon prints or writes.',
      'batharon secrets lists the names that a project needs; batharon secrets set NAME stores one. secret(x) masks a value that a response returned.',
    ],
    example: "auth: { bearer: '{secret.HARBOUR_TOKEN}' }",
  },
  {
    name: 'paths',
    alias: ['path-expression', 'jsonpath', 'json-path', 'selector', 'filter-path', 'query-json', 'wildcard'],
    heading: 'paths: reading values of a response',
    paragraphs: [
      "A path is a JSONPath (RFC 9535): $.arrivals[0].id, $.arrivals[*].id, $.arrivals[?@.state == 'moored']. A name with other characters is written in brackets: $['next-cursor'].",
      'A path of names and indexes gives one value or nothing; any other path gives an array. batharon find prints the path of a value that you can see.',
    ],
    example: "$.arrivals[?@.state == 'moored'].id",
  },
  {
    name: 'editors',
    alias: [
      'editor',
      'vscode',
      'autocomplete',
      'completion-in-editor',
      'json-schema-of-files',
      'schema',
      'language-server',
      'lsp',
    ],
    heading: 'editors: completion and checks while you write',
    paragraphs: [
      'batharon language-server is the command of a language server (LSP 3.17) for *.chain.yaml and batharon.yaml: completion with the values of the last run, mistakes as you type, explanations, renaming. It speaks over standard input and output.',
      'For editors that know JSON Schema only: batharon editor-schema prints the JSON Schema of the files. batharon new writes it to schemas/ and names it in the first line of each file, where editors look for it.',
      'The key schema in an expectation is something else: it checks a response body against a JSON Schema.',
    ],
    example: '# yaml-language-server: $schema=../schemas/chain.schema.json',
  },
  {
    name: 'resuming',
    alias: ['resume-run', 'restart', 'continue', 'continue-run', 'crash', 'killed', 'idempotent'],
    heading: 'resuming: continuing a run that stopped',
    paragraphs: [
      'Every run is recorded as it happens. batharon resume continues one that failed, was interrupted or was killed: requests that were sent and have not changed are not sent again, and changed expectations are evaluated on the recorded responses.',
      'A request whose response never arrived is sent again only if it is repeatable; otherwise --sent or --not-sent tells what became of it.',
    ],
  },
  {
    name: 'debugging',
    alias: ['debug', 'verbose', 'trace', 'inspect', 'why', 'log-requests'],
    heading: 'debugging: finding out what happened',
    paragraphs: [
      'batharon look shows an exchange as it was sent and received; --origins shows where each value came from, --paths the path of each line of the body. run --verbose shows every request.',
      'batharon preview shows the requests of a chain before anything is sent; batharon compare shows what differs between two runs.',
    ],
  },
];

/** A page for each topic. */
export function topicGroups(): readonly PageGroup[] {
  const pages = TOPICS.map(({ name, heading, paragraphs, example }): Page => ({
    name,
    kind: 'topic',
    heading,
    paragraphs,
    rows: [],
    example,
  }));
  return [{ heading: 'Topics', pages }];
}

/** The topic that a word means. */
export function topicMeant(word: string): string | undefined {
  return TOPICS.find(({ name, alias }) => name === word || alias.includes(word))?.name;
}
