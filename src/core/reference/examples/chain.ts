/** Examples of chain files and steps, by mapping. One that begins with `- ` is the steps of a chain. */
export const chainExamples: Readonly<Record<string, readonly string[]>> = {
  'A chain file': [
    `name: arrivals
about: Who arrives on a day.
tags: [daily]
api: harbour
inputs: { day: date }
steps:
  - call: arrivals
    request: GET /arrivals{?day}
    keep: { due: $.arrivals }
outputs: { due: due }`,
    `steps:
  - call: open
    request: POST /days/2026-05-23/open
cleanup:
  - call: close
    request: POST /days/2026-05-23/close`,
  ],
  'An input': [
    `inputs:
  day: { type: date, default: '{today()}', about: the day of arrival }
  flag: { type: string, optional: true, choices: ['NO', DK] }
steps:
  - call: arrivals
    request: GET /arrivals{?day,flag}`,
    `inputs:
  cargo: { type: table, columns: { tonnes: number }, separator: ';', charset: windows-1252, decimal: ',', thousands: '.' }
steps:
  - each: row in cargo
    steps:
      - call: vessel
        request: GET /vessels/{row.vessel}`,
  ],
  choices: [
    `inputs:
  vessel: { type: string, choices: { chain: vessels.chain.yaml, name: vessels } }
steps:
  - call: vessel
    request: GET /vessels/{vessel}`,
  ],
  retry: [
    `- call: arrivals
  request: GET /arrivals
  retry: { tries: 4, wait: 250ms to 10s, on: [connection, 503], after: $.wait_seconds * 1s }`,
  ],
  'The step each': [
    `- each: arrival in due
  about: the draught of each vessel
  identified-by: arrival.id
  concurrency: 3
  on-failure: continue
  max-consecutive-failures: 5
  steps:
    - call: vessel
      request: GET /vessels/{arrival.vessel}
      keep: { draught: $.draught }
  gather:
    fit: { vessel: '{arrival.vessel}', draught: '{draught}' }
- say: '{length(fit)} vessels'`,
    `- each: arrival in due
  once: first-slice
  when: length(due) > 0
  cookies: own
  rejects: '../out/rejected-{day}.csv'
  replace: true
  on-failure: continue
  steps:
    - call: vessel
      request: GET /vessels/{arrival.vessel}`,
  ],
  'The step parallel': [
    `- parallel:
    - call: arrivals
      request: GET /arrivals
    - call: berths
      request: GET /berths
  concurrency: 2
  about: two lists at the same time
  once: first-slice
  when: day != ''`,
  ],
  'The step repeat': [
    `- repeat: pages
  about: pages that a cursor leads through
  carry: { cursor: 'null' }
  steps:
    - call: page
      request: GET /arrivals
      query: { cursor: '{cursor}' }
      keep: { cursor: $.next_cursor ?? null }
  until: cursor == null
  max-rounds: 20`,
    `- repeat: settle
  once: first-slice
  when: job != ''
  steps:
    - call: job
      request: GET /jobs/{job}
      keep: { state: $.state }
  until: state == 'cleared'
  give-up-when: state == 'refused'
  every: 1s to 10s
  within: 2m`,
  ],
  'The step chain': [
    `- chain: berth.chain.yaml
  about: a berth for the vessel
  once: first-slice
  when: vessel != ''
  inputs: { day: '{day}' }
  keep: { reserved: outputs.berth }
- say: '{json(reserved)}'`,
  ],
  'The step if': [
    `- if: length(due) > 0
  about: only on days with arrivals
  once: first-slice
  when: day != ''
  steps:
    - say: '{length(due)} vessels'
  otherwise:
    - say: nobody is due`,
  ],
  'The step let': [
    `- let: { count: length(due), needed: count * 2 }
  about: how many berths are needed
  once: first-slice
  when: length(due) > 0
- say: '{needed ?? 0} berths'`,
  ],
  'The step wait': [
    `- wait: 2s
  about: give the pilot time
  once: first-slice
  when: length(due) > 0`,
  ],
  wait: [`- wait: { to: "date_time('2026-05-23T12:00:00Z')" }`],
  'The step say': [
    `- say: '{length(due)} vessels on {day}'
  about: for the log
  once: first-slice
  when: length(due) > 0`,
  ],
  'The step expect': [
    `- let: { late: "filtered(due, @.state == 'late')", others: "filtered(due, @.state != 'late')" }
- expect:
    - that: length(late) < length(others)
      because: most vessels are on time
    - includes: [{ state: late }]
      of: late
  about: on what was kept
  once: first-slice
  when: length(late) > 0`,
  ],
  'The step stop': [
    `- stop: nobody is due on {day}
  as: passed
  about: nothing to do
  once: first-slice
  when: length(due) == 0`,
  ],
  'The step write': [
    `- write: ../out/due.csv
  about: one row for each arrival
  once: first-slice
  when: length(due) > 0
  rows: due
  update-by: id
  spreadsheet: true`,
    `- write: ../out/log.ndjson
  row: { day: '{day}', vessel: '{vessel}', token: '{secret.PASSWORD}' }
  append: true
  reveal: true`,
    `- write: '../out/note-{day}.txt'
  text: '{length(due)} vessels are due on {day}.'
  replace: true`,
  ],
  'The step remember': [
    `- remember: { last_day: day }
  about: where the next run begins
  once: first-slice
  when: length(due) > 0`,
  ],
  'The step listen': [
    `- listen: notice
  about: where the harbour reports the moored vessel
  once: first-slice
  when: vessel != ''
  path: /moored
  port: 4092
  bind: 0.0.0.0
  public: https://quay.example
- call: ask
  request: POST /notices
  json: { vessel: '{vessel}', callback: '{notice.url ?? null}' }
- receive: notice`,
  ],
  'The step receive': [
    `- listen: notice
- call: ask
  request: POST /notices
  json: { vessel: '{vessel}', callback: '{notice.url}' }
- receive: notice
  about: the harbour reports the moored vessel
  once: first-slice
  when: vessel != ''
  within: 30s
  until: $.vessel == vessel
  respond: { status: 200, json: { ok: true } }
  expect: [$.state == 'moored']
  keep: { moored_at: $.berth }
- say: '{moored_at ?? "nowhere"}'`,
    `- listen: notice
- receive: notice
  verify: { hmac: sha256, key: '{secret.NOTICE_KEY}', header: Harbour-Sign }
  refuse: { status: 403 }`,
  ],
  respond: [
    `- listen: notice
- receive: notice
  respond: { status: 201, headers: { X-Seen: 'yes' }, json: { ok: true } }`,
    `- listen: notice
- receive: notice
  respond: { text: thank you }`,
  ],
  refuse: [
    `- listen: notice
- receive: notice
  verify: { hmac: sha256, key: '{secret.NOTICE_KEY}', header: Harbour-Sign }
  refuse: { status: 403, headers: { X-Why: signature }, json: { ok: false } }`,
    `- listen: notice
- receive: notice
  verify: { hmac: sha256, key: '{secret.NOTICE_KEY}', header: Harbour-Sign }
  refuse: { text: who are you }`,
  ],
  verify: [
    `- listen: notice
- receive: notice
  verify:
    hmac: sha256
    key: ['{secret.NOTICE_KEY}', '{secret.NEXT_NOTICE_KEY}']
    key-encoding: base64
    header: Harbour-Sign
    parameter: v
    message: [headers.harbour_time, "'.'", raw]
    time: headers.harbour_time
    tolerance: 2m`,
    `- listen: notice
- receive: notice
  verify: { hmac: sha512, key: '{secret.NOTICE_KEY}', header: Harbour-Sign, prefix: sha512=, encoding: base64 }`,
  ],
};
