import type { CodePages } from './definition.ts';

const call = (...lines: readonly string[]): string =>
  ['- call: list', '  request: GET /list', ...lines.map((line) => `  ${line}`)].join('\n');

/** What can go wrong while a chain runs. */
export const runningCodes: CodePages = {
  'found-nothing': {
    about:
      'A path found nothing where a value is needed. The message shows how far it got and what is there instead. A path that finds nothing never satisfies an expectation, whatever the operator: write exists(x), or x ?? ... with a value for that case.',
    example: { run: call('expect:', '  - $.job.state == 1'), answer: { body: '{"job": {"status": 1}}' } },
  },
  'secret-dropped': {
    about:
      'A redirect led to another origin. Headers that hold a secret, cookies and Authorization are not sent on to it.',
    example: {
      run: call('headers: { Authorization: Basic bW9sZQ== }'),
      answer: { status: 302, headers: [['Location', 'http://127.0.0.2:1/list']] },
    },
  },
  'expectation-false': {
    about:
      'An expectation is false. The message shows the value of each path and name in it, and where the values came from.',
    example: { run: call('expect:', '  - $.n == 2'), answer: { body: '{"n": 1}' } },
  },
  'unexpected-status': {
    about:
      'A call without an expectation on its status expects 2xx. If another status is right, state it: expect: [status == 404].',
    example: { run: call(), answer: { status: 500, body: '{"detail": "closed"}' } },
  },
  'nothing-to-check': {
    about:
      'An expectation holds only because its array is empty: all(...), or not any(...). Or a loop has no items, or a chain sent nothing although it has calls. If the array must have items, expect that as well: length(x) >= 1. With --strict it is a failure.',
    example: { run: call('expect:', '  - all($.list, @ > 0)'), answer: { body: '{"list": []}' } },
  },
  'never-found': {
    about:
      'A condition over items, or a path that gives a list, reads a member that none of the items has: it may be misspelt or renamed. Say that it may be missing by x ?? ... or exists(x). In an expectation, a path that finds nothing in every item is found-nothing. With --strict it is a failure.',
    example: {
      run: call('keep: { due: "filtered($.list, @.paid == true)" }'),
      answer: { body: '{"list": [{"id": 1}]}' },
    },
  },
  'types-differ': {
    about:
      'An expectation with != holds only because its sides are of different types, and otherwise say the same: "12" and 12. Nothing is converted in comparisons. With --strict it is a failure.',
    example: { run: call('expect:', '  - $.n != 12'), answer: { body: '{"n": "12"}' } },
  },
  'except-finds-nothing': {
    about: 'A path under except finds nothing on either side: often the body has changed, or the path has a typo.',
    example: { run: call('expect:', '  - equals: { a: 1 }', '    except: [$.b]'), answer: { body: '{"a": 1}' } },
  },
  accepted: {
    about:
      'With --accept a file was written from the response, after you confirmed. Review the difference in version control before you commit it.',
    example: { command: '@accepting run equals.chain.yaml --accept' },
  },
  'invalid-value': {
    about:
      'A value is not valid in its place: an array or an object inside a longer string, an empty segment of a URL, a line break in a header.',
    example: { run: '- let: { a: "[1, 2]" }\n- say: "these: {a}"' },
  },
  'many-nodes': {
    about: 'An XPath expression found several nodes where one string is needed.',
    example: {
      run: call('expect:', "  - xpath('//tide') == 'high'"),
      answer: { type: 'application/xml', body: '<tides><tide>high</tide><tide>low</tide></tides>' },
    },
  },
  'no-connection': {
    about: 'The host name was not found, nothing is listening there, or TLS failed. Nothing has reached the server.',
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
      'A redirect leads back to a URL of the same call. Often a credential is missing, and the server redirects to its sign-in and back.',
    example: { run: call(), answer: { status: 302, headers: [['Location', '/v1/list']] } },
  },
  'timed-out': {
    about:
      'A time limit was reached; the message says which: connect, response (up to the headers), idle (between parts of the body) or whole.',
    example: { command: '@hanging send GET http://127.0.0.1:4090/hang' },
  },
  'not-decodable': {
    about: 'The body cannot be decoded as its Content-Type declares. The first bytes are shown.',
    example: { run: call(), answer: { body: '{"a": ' } },
  },
  'unknown-charset': {
    about: 'The response declares a charset that is not supported.',
    example: { run: call(), answer: { type: 'text/plain; charset=x-kvitnes', body: 'x' } },
  },
  'body-too-big': {
    about: 'The body exceeds 64 MiB after decompression.',
    example: { command: '@huge send GET http://127.0.0.1:4090/huge' },
  },
  stopped: {
    about: 'A stop step ended the chain as failed. Its text gives the reason.',
    example: { run: '- stop: no berth is free' },
  },
  'over-limit': {
    about:
      'A limit that protects against files and responses made to exhaust memory was reached: depth of JSON or XML, length of a pattern, nodes found by a path, nested loops and chains (16).',
    example: { run: call(), answer: { body: `${'['.repeat(600)}${']'.repeat(600)}` } },
  },
  'not-authorized': {
    about:
      'The server answered 401 although the request carried credentials, or a token was refused. The message names the API, the deployment and the scheme, and what is odd about a secret without showing it: a line break at its end, a prefix that is sent twice. To test the credentials alone: batharon sign-in.',
    example: { command: '@secret=wrong-token run chains/berth.chain.yaml' },
  },
  'written-file-changed': {
    about:
      'A resumed run would write to a file that has changed since it stopped. The file is not overwritten: move it away, or restore it as the run left it.',
    example: { command: '@edited resume' },
  },
  'secret-not-recorded': {
    about:
      'A resumed run needs a secret that a call kept. Secrets are never recorded; a repeatable call is sent again to get it, and this one is not repeatable. Add repeatable: true if sending it again is safe.',
    example: { command: '@kept-secret resume' },
  },
  'saved-file-changed': {
    about:
      'A resumed run found that the file in which a response was saved has changed or is gone. A request that only reads is sent again; one that changes something is not, unless --not-sent names its address.',
    example: { command: '@resaved resume' },
  },
  'file-changed': {
    about:
      'A large file is read again for each attempt of its request, and this one changed in between, so that the server would have received neither version.',
    example: {
      run: '- call: upload\n  request: PUT /documents/D-1\n  file: changing.bin',
      answer: { status: 307, headers: [['Location', '/v1/elsewhere']] },
    },
  },
  'duplicate-item': {
    about: 'identified-by tells the items of a loop apart; two of them have the same value, or one has none.',
    example: { run: "- each: v in [1, 1]\n  identified-by: v\n  steps:\n    - say: '{v}'" },
  },
  'paging-loop': {
    about:
      'The next page was read already, or has the same items as the one before: the parameter that selects it has no effect.',
    example: {
      run: '- call: a\n  request: GET /a\n  paging: { next: $.next, items: $.arrivals }',
      answer: { body: '{"arrivals": [1], "next": "/v1/b"}' },
    },
  },
  'too-many-pages': {
    about:
      'There are more pages than max-pages allows (default: 100). max-pages: {count: 20, then: stop} stops there without an error.',
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
      'A failed request would have been retried, but it may have arrived, and processing it twice may do harm. GET, HEAD, PUT and DELETE are sent again; a POST only with an idempotency-key, or with repeatable: true.',
    example: { run: '- call: add\n  request: POST /list\n  retry: { tries: 2 }', answer: { status: 503 } },
  },
  'quota-spent': {
    about:
      'The quota of a day or month is spent, or the server says so. The run pauses with exit status 5; batharon resume continues it when the quota starts again. With --wait-for-quota the run waits.',
    example: { run: call(), answer: { status: 429, headers: [['Retry-After', '7200']] } },
  },
  'run-under-way': {
    about: 'Another process is running this run, or this chain: two at the same time would do everything twice.',
    example: { command: '@under-way resume' },
  },
  'recorded-otherwise': {
    about:
      'In a rehearsal a request differed from the recorded one; the message shows where. The recorded response was used all the same.',
    example: { command: '@rehearsed=2 rehearse chains/rehearsed.chain.yaml' },
  },
  'not-recorded': {
    about:
      '`rehearse`, and `run --only` for calls before the one that is named, need a recorded response of this call, and there is none.',
    example: { command: '@rehearsed=more rehearse chains/rehearsed.chain.yaml' },
  },
  'in-doubt': {
    about:
      'A request was sent, its response never arrived, and it is not repeatable. Check at the server whether it was processed, then: batharon resume --sent ADDRESS, or --not-sent ADDRESS; all stands for all of them. An idempotency-key avoids the question.',
    example: { command: '@doubtful resume --no-prompt' },
  },
  'not-answered': {
    about:
      'A request that was never answered was taken as sent, so what it would have kept is not known. Give it, as far as the server shows it: batharon resume --kept ADDRESS:NAME=VALUE.',
    example: { command: '@doubtful resume --sent 1/add' },
  },
  'changed-since-sent': {
    about:
      'A call that changes something was done, and its request is a different one now: the file or a value before it has changed. It is not sent again by itself, unless the call says repeatable: true. Resume with --resend ADDRESS to send it as it is now, or with --skip ADDRESS to keep what was done; all stands for all of them.',
    example: { command: '@changed resume --no-prompt' },
  },
  'gave-up': {
    about:
      'give-up-when became true: a state from which the goal cannot be reached. The message shows the sequence of states.',
    example: {
      run: "- repeat: look\n  steps:\n    - call: a\n      request: GET /a\n      keep: { state: $.state }\n  until: state == 'cleared'\n  give-up-when: state == 'refused'",
      answer: { body: '{"state": "refused"}' },
    },
  },
  'deadline-passed': {
    about:
      'The time limit in within was reached before the condition became true. The message shows the sequence of states.',
    example: {
      run: "- repeat: look\n  steps:\n    - call: a\n      request: GET /a\n      keep: { state: $.state }\n  until: state == 'cleared'\n  every: 10s\n  within: 15s",
      answer: { body: '{"state": "queued"}' },
    },
  },
  'too-many-rounds': {
    about: 'The number of rounds reached max-rounds, and until is still false.',
    example: {
      run: "- repeat: look\n  steps:\n    - call: a\n      request: GET /a\n      keep: { state: $.state }\n  until: state == 'cleared'\n  max-rounds: 3",
      answer: { body: '{"state": "queued"}' },
    },
  },
  'too-many-failures': {
    about: 'The loop was stopped because so many items failed in a row.',
    example: {
      run: '- each: n in range(9)\n  on-failure: continue\n  max-consecutive-failures: 3\n  steps:\n    - call: a\n      request: GET /a/{n}',
      answer: { status: 500 },
    },
  },
  'undo-failed': {
    about:
      'The request that should have undone a call failed: what the call created still exists. The message shows the request.',
    example: {
      run: '- call: a\n  request: POST /a\n  expect: [status == 500]\n  undo: DELETE /a/1',
      answer: { status: 500 },
    },
  },
  'no-such-column': {
    about: 'A row has a column that the file does not have, or lacks the column that rows are updated by.',
    example: { run: '- write: rows.csv\n  row: { id: "1" }\n- write: rows.csv\n  row: { name: x }' },
  },
  'address-taken': {
    about: 'The port of a listen step is not available: another program uses it. Without port, a free one is taken.',
    example: { run: '- listen: notice\n  port: 80\n- receive: notice' },
  },
  'contract-mismatch': {
    about:
      "A call, a path into its response, or the response itself does not fit the description that the API is held to (contract). Before anything is sent: no such operation, a parameter or member that is missing, misspelt or of another type, a media type that is not offered, a path that the response's schema cannot have, a status that is not described. When it arrives: status, media type, headers and body. The message names the place in the description. With contract: {file, mode: warn} it is a note.",
    example: { command: '@misfit check chains/described.chain.yaml' },
  },
  'invalid-contract': {
    about:
      'The API description cannot be read, is of a version that is not read, or a part of it refers to nothing or to the network. What is sound of it is used; a part that cannot be is named, and not checked.',
    example: { command: '@broken-contract check chains/described.chain.yaml' },
  },
  'callback-not-verified': {
    about:
      'The request that arrived does not have the signature that verify expects: its header is not there, its length or alphabet is another, it was made with another key or over other bytes, or too long ago. Where another common form would fit, the message says which. Neither the signature nor the key is shown. The request was answered as refuse says.',
    example: { command: '@unsigned run chains/notice.chain.yaml' },
  },
  'no-callback': {
    about:
      'No request came to the address in time. Check that its URL was sent to the server, and that the server can reach it: if it is not reachable directly, set public.',
    example: { run: '- listen: silent\n- receive: silent\n  within: 10ms' },
  },
};
