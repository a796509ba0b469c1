import type { CodePages } from './definition.ts';

const expecting = (expectation: string): { steps: string } => ({
  steps: `- call: list\n  request: GET /list\n  expect:\n    - ${expectation}`,
});

/** What reads well and cannot be meant. */
export const meaningCodes: CodePages = {
  'wrong-argument': {
    about:
      'A function or an operator gets the wrong number or kind of values. Nothing is converted by itself: text(), number() and the like say what is meant.',
    example: expecting('lower(1) == "1"'),
  },
  'not-a-condition': {
    about:
      'A condition is true or false. A path or a name alone is one only when it is known to be boolean; write exists(x), or x == true.',
    example: expecting('$.ready'),
  },
  'always-same': {
    about:
      'A condition that comes out the same whatever the server answers tests nothing: it compares two constants, or values of two kinds.',
    example: expecting("status == '200'"),
  },
  'array-compared': {
    about: 'Inside a filter RFC 9535 compares single values, and this path can find many.',
    example: expecting('length($.list[?@.* == 1]) == 1'),
  },
  'count-of-single': {
    about:
      'count() counts the nodes that a path finds, and a path of names and indexes finds one or none. The number of items is length().',
    example: expecting('count($.list) == 3'),
  },
  'chained-comparison': {
    about: 'a < b < c would compare a condition with c. Write a < b && b < c.',
    example: expecting('1 < $.a < 3'),
  },
  'bang-before-comparison': {
    about: '! belongs to what directly follows it. Write !(a == b), or a != b.',
    example: { steps: '- call: list\n  request: GET /list\n  expect:\n    - "!$.a == 1"' },
  },
  'needless-fallback': {
    about:
      'Left of ?? stands something that is always there, so the right side is never used. Often the ?? belongs one path further left or right.',
    example: expecting('(status ?? 0) == 200'),
  },
  'contradictory-expectations': {
    about: 'Two expectations of one call demand different values of the same thing, so the call can never hold.',
    example: { steps: '- call: list\n  request: GET /list\n  expect:\n    - status == 200\n    - status == 201' },
  },
  'body-unexpected': {
    about: 'GET, HEAD and DELETE have no body as a rule; servers and proxies on the way may drop or refuse it.',
    example: { steps: '- call: list\n  request: GET /list\n  json: { a: 1 }' },
  },
  'reserved-header': {
    about:
      'Some headers are made from the URL, the connection and the body (Host, Content-Length ...), and names of headers have letters, digits and a few signs.',
    example: { steps: '- call: list\n  request: GET /list\n  headers: { Host: example }' },
  },
  'duplicate-parameter': {
    about: 'A query parameter stands in the target and under query:, and servers disagree on which one counts.',
    example: { steps: '- call: list\n  request: GET /list?page=1\n  query: { page: 2 }' },
  },
  'other-deployment': {
    about:
      'A whole URL leads to another deployment than the one where the run is, past its credentials and its guard against changes. Write the path, and choose the deployment with --at.',
    example: { steps: '- call: list\n  request: GET https://harbour.example/v1/list' },
  },
  'other-api': {
    about:
      'A whole URL leads to an api that the project has. Its credentials, headers and pace count only when the call names it with api:.',
    example: { steps: '- call: level\n  request: GET http://127.0.0.1:1/watch/level' },
  },
  'never-runs': {
    about: 'A step stands behind a stop, or its condition is simply false.',
    example: { steps: '- stop: done\n- say: never' },
  },
  'secret-shown': {
    about:
      'A secret stands where others read it: in a URL, which servers and proxies log, in what the chain gives, or in a line of the output. It is masked in what this program writes, but a URL is seen elsewhere too.',
    example: { steps: '- call: list\n  request: GET /list\n  query: { key: "{secret.K}" }' },
  },
  'invalid-path': {
    about: 'A key wants a path from $ (RFC 9535), and this is none.',
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
      'A file or an inline schema is no JSON Schema (2020-12), or refers to something that is not beside it. Nothing is fetched.',
    example: { steps: '- call: list\n  request: GET /list\n  expect:\n    - schema: { type: objekt }' },
  },
  'outside-project': {
    about: 'Files are written inside the project folder alone, symbolic links resolved.',
    example: { steps: '- call: chart\n  request: GET /soundings/N1\n  save: /srv/chart.png' },
  },
  'duplicate-file': {
    about: 'Two steps save to one file, and the second would replace what the first has saved.',
    example: {
      steps:
        '- call: first\n  request: GET /soundings/N1\n  save: chart.png\n- call: second\n  request: GET /soundings/N2\n  save: chart.png',
    },
  },
  'body-not-in-memory': {
    about:
      'A body that is saved to a file is not held in memory too: $ has path, size, type and sha256 of the file. Leave save: out to read the body itself.',
    example: { steps: '- call: list\n  request: GET /cargo\n  save: cargo.csv\n  expect:\n    - $.total == 12' },
  },
  'not-an-array': {
    about: 'A loop goes over a list. For the members of an object write entries(x): a list of {key, value}.',
    example: { steps: "- each: n in 'KM 204/5'\n  steps:\n    - say: '{n}'" },
  },
  'poll-cannot-end': {
    about: 'The condition reads nothing that a round changes, so it holds at once or never.',
    example: {
      chain:
        "inputs: { day: date }\nsteps:\n  - repeat: look\n    steps:\n      - call: a\n        api: harbour\n        request: GET /a\n        keep: { state: $.state }\n    until: day == 'x'\noutputs: [state]\n",
    },
  },
  'poll-too-short': {
    about: 'The time of within: is over before the first pause of every: is, so there is only one look.',
    example: { steps: "- call: a\n  request: GET /a\n  poll: { until: $.state == 'done', every: 30s, within: 10s }" },
  },
  'contradictory-conditions': {
    about: 'until and give-up-when are the same condition, and giving up is asked for first.',
    example: {
      steps: "- call: a\n  request: GET /a\n  poll:\n    until: $.state == 'done'\n    give-up-when: $.state == 'done'",
    },
  },
  'poll-with-paging': {
    about:
      'A call polls, or turns pages, or carries an idempotency key: each speaks of another number of requests. Two calls say what is meant.',
    example: {
      steps: "- call: a\n  request: GET /a\n  poll: { until: $.ready == true }\n  paging: { next: link('next') }",
    },
  },
  'poll-not-repeatable': {
    about: 'Every look sends the request again, and this one may not be: look with a GET.',
    example: { steps: '- call: a\n  request: POST /a\n  poll: { until: $.ready == true }' },
  },
  'retry-in-vain': {
    about:
      'A request that may not be sent twice is tried again only where nothing was sent, or after a 429. An idempotency-key makes it repeatable.',
    example: { steps: '- call: a\n  request: POST /a\n  retry: { tries: 3 }' },
  },
  'fresh-but-changing': {
    about: 'An older response can stand for a request that only reads, and reads it once.',
    example: { steps: '- call: a\n  request: POST /a\n  fresh-for: 1h' },
  },
  'page-cannot-turn': {
    about:
      'The request for the next page would be the same as for this one: next: or query: reads nothing of the page.',
    example: { steps: '- call: a\n  request: GET /a\n  paging: { query: { page: "2" }, while: $.more }' },
  },
  'use-items': {
    about:
      'In a paged call $ is the last page, for single values only. Lists are read from items, which holds those of all pages.',
    example: {
      steps:
        "- call: a\n  request: GET /a\n  paging: { next: link('next'), items: $.arrivals }\n  expect:\n    - length($.arrivals[*]) == 30",
    },
  },
  'row-and-rows': {
    about: 'A write has row (one row, by column) or rows (a list of them), and not both.',
    example: { steps: '- write: out.csv' },
  },
  'rows-only': {
    about: 'JSON has no end to put a row behind; it is written as a whole with rows. NDJSON takes single rows.',
    example: { steps: '- write: out.json\n  row: { id: "1" }' },
  },
  'no-listener': {
    about: 'receive waits at an address that listen opened before, under the same name.',
    example: { steps: '- receive: notice' },
  },
  'never-received': {
    about: 'An address is opened, and no receive waits for what comes there.',
    example: { steps: '- listen: notice\n- call: a\n  request: POST /notices\n  json: { callback: "{notice.url}" }' },
  },
};
