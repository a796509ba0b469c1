import type { CodePages } from './definition.ts';

const expecting = (expectation: string): { steps: string } => ({
  steps: `- call: list\n  request: GET /list\n  expect:\n    - ${expectation}`,
});

/** What reads well and cannot be meant. */
export const meaningCodes: CodePages = {
  'wrong-argument': {
    about:
      'A function or an operator has the wrong number or type of values. Values are not converted implicitly: use string(), number() and the like.',
    example: expecting('lower(1) == "1"'),
  },
  'not-a-condition': {
    about:
      'A condition must be true or false. A path or a name by itself is accepted only when it is known to be boolean; otherwise write exists(x), or x == true.',
    example: expecting('$.ready'),
  },
  'always-same': {
    about:
      'A condition that is the same whatever the server answers tests nothing: it compares two constants, or values of two types.',
    example: expecting("status == '200'"),
  },
  'array-compared': {
    about:
      'A comparison needs single values, and this path can find many. Use all(...), any(...) or a path of names and indexes.',
    example: expecting('length($.list[?@.* == 1]) == 1'),
  },
  'count-of-single': {
    about:
      'count() counts the nodes that a path finds, and a path of names and indexes finds at most one. For the number of items use length().',
    example: expecting('count($.list) == 3'),
  },
  'chained-comparison': {
    about: 'a < b < c would compare a condition with c. Write a < b && b < c.',
    example: expecting('1 < $.a < 3'),
  },
  'bang-before-comparison': {
    about: '! applies only to what directly follows it. Write !(a == b), or a != b.',
    example: { steps: '- call: list\n  request: GET /list\n  expect:\n    - "!$.a == 1"' },
  },
  'needless-fallback': {
    about:
      'The left side of ?? always has a value, so the right side is never used. Often the ?? belongs to another path of the expression.',
    example: expecting('(status ?? 0) == 200'),
  },
  'contradictory-expectations': {
    about: 'Two expectations of one call require different values of the same thing, so the call can never pass.',
    example: { steps: '- call: list\n  request: GET /list\n  expect:\n    - status == 200\n    - status == 201' },
  },
  'body-unexpected': {
    about: 'GET, HEAD and DELETE have no body by convention; servers and proxies may drop or refuse it.',
    example: { steps: '- call: list\n  request: GET /list\n  json: { a: 1 }' },
  },
  'reserved-header': {
    about:
      'Some headers are set from the URL, the connection and the body (Host, Content-Length ...), and header names consist of letters, digits and a few other characters.',
    example: { steps: '- call: list\n  request: GET /list\n  headers: { Host: example }' },
  },
  'duplicate-parameter': {
    about: 'A query parameter is in the target and under query, and servers disagree on which one counts.',
    example: { steps: '- call: list\n  request: GET /list?page=1\n  query: { page: 2 }' },
  },
  'other-deployment': {
    about:
      'A whole URL leads to another deployment than the one of the run, without its credentials and its guard against changes. Write the path, and choose the deployment with --at.',
    example: { steps: '- call: list\n  request: GET https://harbour.example/v1/list' },
  },
  'other-api': {
    about:
      'A whole URL below that of an API of the project is a request of that API, with its credentials, headers and limits. A call that has such a URL and names another API with api contradicts itself.',
    example: { steps: '- call: level\n  api: harbour\n  request: GET http://127.0.0.1:1/watch/level' },
  },
  'never-runs': {
    about: 'A step follows a stop, or its condition is always false.',
    example: { steps: '- stop: done\n- say: never' },
  },
  'secret-shown': {
    about:
      'A secret is used where others can read it: in a URL, which servers and proxies log, in outputs, or in a line of the output. It is masked in everything that batharon writes, but a URL is seen by others too.',
    example: { steps: '- call: list\n  request: GET /list\n  query: { key: "{secret.K}" }' },
  },
  'invalid-path': {
    about: 'The key needs a path from $ (RFC 9535), and this is not one.',
    example: { steps: '- call: list\n  request: GET /list\n  expect:\n    - equals: { a: 1 }\n      except: [a]' },
  },
  'invalid-pattern': {
    about: 'A pattern is an I-Regexp (RFC 9485): no \\d, \\w, \\s, no look-around, no back-references.',
    example: expecting("match($.id, '(')"),
  },
  'invalid-xpath': {
    about: 'An expression for xpath() does not follow XPath 1.0.',
    example: expecting("xpath('//tide[') == 'x'"),
  },
  'invalid-schema': {
    about:
      'A file or an inline schema is not a JSON Schema (2020-12), or refers to something outside its folder. References to the network are not followed. Keywords and formats that do not exist, and keywords that do not go with the type beside them, are mistakes; names that begin with x- are annotations.',
    example: { steps: '- call: list\n  request: GET /list\n  expect:\n    - schema: { type: objekt }' },
  },
  'pattern-not-checked': {
    about:
      'A pattern of a JSON Schema uses look-around or back-references, which need time that grows with the power of the length of a text. Patterns are run in linear time, and this one is passed over.',
    example: {
      steps: "- call: list\n  request: GET /list\n  expect:\n    - schema: { type: string, pattern: '^(?!N).*$' }",
    },
  },
  'outside-project': {
    about: 'Files are written only inside the project folder, after symbolic links are resolved.',
    example: { steps: '- call: chart\n  request: GET /soundings/N1\n  save: /srv/chart.png' },
  },
  'secret-not-declared': {
    about:
      "A chain reads a secret that only the environment has and that the project says nothing of. Declare it under secrets in batharon.yaml, so that nobody can have a chain read what is not the project's.",
    example: { command: '@environment-secret run chains/environment.chain.yaml' },
  },
  'not-trusted': {
    about:
      'The first time that the secrets of a project are sent to an origin, by a proxy or with an authority of certificates, or come from a command, somebody is asked on a terminal. With --trusted-only (BATHARON_TRUSTED_ONLY=1) what nobody agreed to is refused.',
    example: { command: '@elsewhere run chains/elsewhere.chain.yaml --trusted-only' },
  },
  'secret-leaves-api': {
    about:
      'A secret belongs to the APIs whose keys read it, and to those that secrets in batharon.yaml names for it. It is never sent to another server.',
    example: { command: '@leaving-secret run chains/leaving.chain.yaml' },
  },
  'unknown-format': {
    about:
      'Rows are written as CSV, TSV, NDJSON or JSON, which the extension of the file decides. Any other file takes a text.',
    example: { steps: '- write: rows.txt\n  row: { a: 1 }' },
  },
  'file-protected': {
    about:
      'A chain reads and writes no hidden files, no files of the project itself (batharon.yaml, *.chain.yaml, secrets.env), nothing below .git, .batharon and node_modules, and no names that mean something else on another system.',
    example: { steps: '- call: chart\n  request: GET /soundings/N1\n  save: .git/config' },
  },
  'file-exists': {
    about:
      'A file name with a placeholder never replaces a file that is there already, since a response may have chosen it. replace: true allows it.',
    example: { run: '- let: { day: "\'kept\'" }\n- write: "{day}.csv"\n  row: { a: 1 }' },
  },
  'not-a-file': {
    about: 'A folder, a device or a pipe stands where a regular file is read or written.',
    example: { command: 'run /dev/zero' },
  },
  'duplicate-file': {
    about: 'Two steps save to the same file, and the second would replace what the first saved.',
    example: {
      steps:
        '- call: first\n  request: GET /soundings/N1\n  save: chart.png\n- call: second\n  request: GET /soundings/N2\n  save: chart.png',
    },
  },
  'body-not-in-memory': {
    about:
      'A body that is saved to a file is not kept in memory: $ has path, size, type and sha256 of the file. To read the body, remove save.',
    example: { steps: '- call: list\n  request: GET /cargo\n  save: cargo.csv\n  expect:\n    - $.total == 12' },
  },
  'not-an-array': {
    about: 'A loop needs an array. For the members of an object write entries(x): an array of {key, value}.',
    example: { steps: "- each: n in 'KM 204/5'\n  steps:\n    - say: '{n}'" },
  },
  'poll-cannot-end': {
    about: 'The condition reads nothing that a poll or round can change, so it is true at once or never.',
    example: {
      chain:
        "inputs: { day: date }\nsteps:\n  - repeat: look\n    steps:\n      - call: a\n        api: harbour\n        request: GET /a\n        keep: { state: $.state }\n    until: day == 'x'\noutputs: [state]\n",
    },
  },
  'poll-too-short': {
    about: 'The time limit in within ends before the first pause in every, so there would be a single poll.',
    example: { steps: "- call: a\n  request: GET /a\n  poll: { until: $.state == 'done', every: 30s, within: 10s }" },
  },
  'contradictory-conditions': {
    about: 'until and give-up-when are the same condition, and give-up-when is tested first.',
    example: {
      steps: "- call: a\n  request: GET /a\n  poll:\n    until: $.state == 'done'\n    give-up-when: $.state == 'done'",
    },
  },
  'poll-with-paging': {
    about: 'Polling, paging and idempotency keys cannot be combined in one call. Use two calls.',
    example: {
      steps: "- call: a\n  request: GET /a\n  poll: { until: $.ready == true }\n  paging: { next: link('next') }",
    },
  },
  'poll-not-repeatable': {
    about: 'Every poll sends the request again, and this one is not repeatable: poll with a GET.',
    example: { steps: '- call: a\n  request: POST /a\n  poll: { until: $.ready == true }' },
  },
  'retry-in-vain': {
    about:
      'A request that is not repeatable is retried only if nothing was sent, or after a 429. An idempotency-key makes it repeatable.',
    example: { steps: '- call: a\n  request: POST /a\n  retry: { tries: 3 }' },
  },
  'fresh-but-changing': {
    about: 'A recorded response can replace only a single request that only reads.',
    example: { steps: '- call: a\n  request: POST /a\n  fresh-for: 1h' },
  },
  'page-cannot-turn': {
    about: 'The request for the next page would be the same as for this one: next or query reads nothing of the page.',
    example: { steps: '- call: a\n  request: GET /a\n  paging: { query: { page: "2" }, while: $.more }' },
  },
  'use-items': {
    about:
      'In a paged call $ is the last page, for single values only. Arrays are read from items, the array over all pages.',
    example: {
      steps:
        "- call: a\n  request: GET /a\n  paging: { next: link('next'), items: $.arrivals }\n  expect:\n    - length($.arrivals[*]) == 30",
    },
  },
  'row-and-rows': {
    about: 'A write step has either row (one row, by column) or rows (an array of rows).',
    example: { steps: '- write: out.csv' },
  },
  'rows-only': {
    about: 'JSON cannot be appended to; it is written as a whole with rows. NDJSON takes single rows.',
    example: { steps: '- write: out.json\n  row: { id: "1" }' },
  },
  'no-listener': {
    about: 'receive waits at an address that an earlier listen opened, under the same name.',
    example: { steps: '- receive: notice' },
  },
  'never-received': {
    about: 'An address is opened, but no receive waits for callbacks to it.',
    example: { steps: '- listen: notice\n- call: a\n  request: POST /notices\n  json: { callback: "{notice.url}" }' },
  },
};
