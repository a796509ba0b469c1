import type { CodePages } from './definition.ts';

const call = (...lines: readonly string[]): string =>
  ['- call: list', '  request: GET /list', ...lines.map((line) => `  ${line}`)].join('\n');

/** What can go wrong while a chain runs. */
export const runningCodes: CodePages = {
  'found-nothing': {
    about:
      'A path found nothing where a value is needed. The message says how far it got and what was there. A path that finds nothing never satisfies an expectation, whatever the operator: say exists(x), or x ?? ... with what stands for it.',
    example: { run: call('expect:', '  - $.job.state == 1'), answer: { body: '{"job": {"status": 1}}' } },
  },
  'expectation-false': {
    about:
      'An expectation is false. The message shows what each path and name in it was, and where the values came from.',
    example: { run: call('expect:', '  - $.n == 2'), answer: { body: '{"n": 1}' } },
  },
  'unexpected-status': {
    about:
      'A call that says nothing of its status expects 2xx. Where another is right, say so: expect: [status == 404].',
    example: { run: call(), answer: { status: 500, body: '{"detail": "closed"}' } },
  },
  'nothing-to-check': {
    about:
      'all(...) of an empty list is true, and says nothing. If the list must have items, expect that too: length(x) >= 1.',
    example: { run: call('expect:', '  - all($.list, @ > 0)'), answer: { body: '{"list": []}' } },
  },
  'except-finds-nothing': {
    about:
      'A path under except finds nothing on either side, so it excepts nothing: often the body has changed, or the path has a slip.',
    example: { run: call('expect:', '  - equals: { a: 1 }', '    except: [$.b]'), answer: { body: '{"a": 1}' } },
  },
  accepted: {
    about:
      'With --accept a file was written from the response, after you said yes. Look at the difference in your version control before you commit it.',
    example: { command: '@accepting run equals.chain.yaml --accept' },
  },
  'invalid-value': {
    about:
      'A value has no form at its place: a list or an object inside longer text, an empty segment of a URL, a line break in a header.',
    example: { run: '- let: { a: "[1, 2]" }\n- say: "these: {a}"' },
  },
  'many-nodes': {
    about: 'An XPath expression found several nodes where one text is needed.',
    example: {
      run: call('expect:', "  - xpath('//tide') == 'high'"),
      answer: { type: 'application/xml', body: '<tides><tide>high</tide><tide>low</tide></tides>' },
    },
  },
  'no-connection': {
    about: 'The name was not found, nothing listens there, or TLS failed. Nothing has reached the server.',
    example: { run: call() },
  },
  'redirect-refused': {
    about:
      'A redirect is not followed: it leads from https to http, would send a change to another origin, or is one of more than ten. With redirects: stop the 3xx itself is the response.',
    example: {
      run: '- call: book\n  request: POST /bookings\n  json: { a: 1 }',
      answer: { status: 307, headers: [['Location', 'https://elsewhere.example/']] },
    },
  },
  'redirect-loop': {
    about:
      'A redirect leads to where the call has been already. Often a credential is missing, and the server sends one to sign in and back.',
    example: { run: call(), answer: { status: 302, headers: [['Location', '/v1/list']] } },
  },
  'timed-out': {
    about:
      'A time limit was hit; the message says which: connect, response (up to the headers), idle (between pieces of the body) or whole.',
    example: { command: '@hanging send GET http://127.0.0.1:4090/hang' },
  },
  'not-decodable': {
    about: 'The body cannot be read as what its Content-Type says. The first bytes are shown.',
    example: { run: call(), answer: { body: '{"a": ' } },
  },
  'unknown-charset': {
    about: 'The response names a charset that nobody knows.',
    example: { run: call(), answer: { type: 'text/plain; charset=x-kvitnes', body: 'x' } },
  },
  'body-too-big': {
    about: 'A body has more than 64 MiB after decompression.',
    example: { command: '@huge send GET http://127.0.0.1:4090/huge' },
  },
  stopped: {
    about: 'A stop step ended the chain as failed. Its text says why.',
    example: { run: '- stop: no berth is free' },
  },
  'over-limit': {
    about:
      'A limit that protects against files and responses made to fill the memory was reached: depth of JSON or XML, length of a pattern, nodes found by a path, loops inside of loops and chains inside of chains (16).',
    example: { run: call(), answer: { body: `${'['.repeat(600)}${']'.repeat(600)}` } },
  },
  'not-authorized': {
    about:
      'The server answered 401 although the request carried credentials, or a token was refused. The message names the api, the deployment and the scheme, and what is odd about a secret without showing it: a line break at its end, a prefix that is sent twice. Try the credentials alone with batharon sign-in.',
    example: { command: '@secret=wrong-token run chains/berth.chain.yaml' },
  },
  'written-file-changed': {
    about:
      'A run that goes on would write into a file that somebody else has changed since. The file is left as it is: move it away, or put it back as the run left it.',
    example: { command: '@edited resume' },
  },
  'secret-not-recorded': {
    about:
      'A run that goes on would need a secret that a call kept. Secrets are in no record; a call that may be repeated is sent again for it, and this one may not. Say repeatable: true where that does no harm.',
    example: { command: '@kept-secret resume' },
  },
  'saved-file-changed': {
    about:
      'A run that goes on finds that the file to which a response was saved is another one since, or gone. A request that only reads is sent again; one that changes something is not, unless you say --not-sent with its address.',
    example: { command: '@resaved resume' },
  },
  'file-changed': {
    about:
      'A large file is read again for each try of its request, and this one was changed in between: what the server got would be neither the one nor the other.',
    example: {
      run: '- call: upload\n  request: PUT /documents/D-1\n  file: changing.bin',
      answer: { status: 307, headers: [['Location', '/v1/elsewhere']] },
    },
  },
  'duplicate-item': {
    about: 'identified-by: tells the items of a loop apart, and two of them are the same by it, or have none.',
    example: { run: "- each: v in [1, 1]\n  identified-by: v\n  steps:\n    - say: '{v}'" },
  },
  'paging-loop': {
    about:
      'The next page was read already, or has the same items as the one before: what should name it does not change.',
    example: {
      run: '- call: a\n  request: GET /a\n  paging: { next: $.next, items: $.arrivals }',
      answer: { body: '{"arrivals": [1], "next": "/v1/b"}' },
    },
  },
  'too-many-pages': {
    about:
      'There are more pages than max-pages, which is 100 unless said. max-pages: {count: 20, then: stop} reads no more and is content.',
    example: {
      run: '- call: a\n  request: GET /a\n  paging: { query: { page: "{page_count + 1}" }, while: $.more == true, max-pages: 2 }',
      answer: { body: '{"more": true}' },
    },
  },
  'other-origin-page': {
    about: 'The next page is at another origin, to which credentials are not sent.',
    example: {
      run: '- call: a\n  request: GET /a\n  paging: { next: $.next }',
      answer: { body: '{"next": "https://elsewhere.example/2"}' },
    },
  },
  'not-sent-again': {
    about:
      'A request that failed would have been tried again, but it may have arrived, and doing it twice may do harm. GET, HEAD, PUT and DELETE are sent again; a POST is with an idempotency-key, by which the server knows it, or with repeatable: true.',
    example: { run: '- call: add\n  request: POST /list\n  retry: { tries: 2 }', answer: { status: 503 } },
  },
  'quota-spent': {
    about:
      'The quota of a day or month is used up, or the server says that it is. The run pauses, with exit status 5, and goes on with batharon resume once the quota begins anew; with --wait-for-quota it waits.',
    example: { run: call(), answer: { status: 429, headers: [['Retry-After', '7200']] } },
  },
  'run-under-way': {
    about: 'Another process goes on with this run, or runs this chain: two at a time would do everything twice.',
    example: { command: '@under-way resume' },
  },
  'recorded-otherwise': {
    about:
      'In a rehearsal a request turned out to be another one than was recorded; the message says where. The recorded response was used all the same.',
    example: { command: '@rehearsed=2 rehearse chains/rehearsed.chain.yaml' },
  },
  'not-recorded': {
    about: 'A rehearsal, or a run of one call alone, needs a recorded response of this call, and there is none.',
    example: { command: '@rehearsed=more rehearse chains/rehearsed.chain.yaml' },
  },
  'in-doubt': {
    about:
      'A request went out, its answer never came, and it may not be sent twice. Look at the server whether it was done, and say so: batharon resume --sent ADDRESS, or --not-sent ADDRESS. An idempotency-key spares the question.',
    example: { command: '@doubtful resume --no-prompt' },
  },
  'gave-up': {
    about: 'give-up-when holds: a state from which it cannot recover. The message has the sequence of states.',
    example: {
      run: "- repeat: look\n  steps:\n    - call: a\n      request: GET /a\n      keep: { state: $.state }\n  until: state == 'cleared'\n  give-up-when: state == 'refused'",
      answer: { body: '{"state": "refused"}' },
    },
  },
  'deadline-passed': {
    about: 'The time under within: was over before the condition held. The message has the sequence of states.',
    example: {
      run: "- repeat: look\n  steps:\n    - call: a\n      request: GET /a\n      keep: { state: $.state }\n  until: state == 'cleared'\n  every: 10s\n  within: 15s",
      answer: { body: '{"state": "queued"}' },
    },
  },
  'too-many-rounds': {
    about: 'There were as many rounds as max-rounds allows, and until does not hold yet.',
    example: {
      run: "- repeat: look\n  steps:\n    - call: a\n      request: GET /a\n      keep: { state: $.state }\n  until: state == 'cleared'\n  max-rounds: 3",
      answer: { body: '{"state": "queued"}' },
    },
  },
  'too-many-failures': {
    about: 'So many items failed one after another, with none held between, that the loop was stopped.',
    example: {
      run: '- each: n in range(9)\n  on-failure: continue\n  max-consecutive-failures: 3\n  steps:\n    - call: a\n      request: GET /a/{n}',
      answer: { status: 500 },
    },
  },
  'undo-failed': {
    about:
      'The request that was to take back what a call made did not hold: what it made is still there. The message shows the request.',
    example: {
      run: '- call: a\n  request: POST /a\n  expect: [status == 500]\n  undo: DELETE /a/1',
      answer: { status: 500 },
    },
  },
  'no-such-column': {
    about: 'A row has a column that the file does not have, or lacks the one that rows are updated by.',
    example: { run: '- write: rows.csv\n  row: { id: "1" }\n- write: rows.csv\n  row: { name: x }' },
  },
  'address-taken': {
    about: 'The port of a listen cannot be listened at: another program has it. Without port: a free one is taken.',
    example: { run: '- listen: notice\n  port: 80\n- receive: notice' },
  },
  'no-callback': {
    about:
      'No request came to the address in time. Look whether its URL was sent to the server, and whether the server can reach it: behind a gateway, public: says how.',
    example: { run: '- listen: silent\n- receive: silent\n  within: 10ms' },
  },
};
