/** Examples of the step `call` and of what belongs to it, by mapping. */
export const callExamples: Readonly<Record<string, readonly string[]>> = {
  'The step call': [
    `- call: arrivals
  about: who arrives on a day
  api: harbour
  request: GET /arrivals
  query: { day: '{day}' }
  headers: { Accept-Language: en }
  expect: [status == 200, length($.arrivals) > 0]
  keep: { first_id: '$.arrivals[0].id' }`,
    `- call: reserve
  request: POST /berths/{berth}/reservations
  json: { vessel: '{vessel}' }
  idempotency-key: true
  undo: DELETE /berths/{berth}/reservations
  on-failure: continue`,
    `- call: create
  request: POST /berths
  json: { name: N1 }
  keep: { berth: $.id }
  on-status:
    409:
      steps:
        - call: existing
          request: GET /berths/N1
          keep: { berth: $.id }
    503:
      steps: [{ wait: 10s }]
      again: 2
- say: '{berth}'`,
    `- call: reserve
  request: POST /berths/{berth}/reservations
  json-file: reservation.json
  set: { $.vessel: '{vessel}' }`,
    `- call: declare
  request: POST /declarations
  xml-file: declaration.xml
  namespaces: { c: 'urn:cargo' }
  set: { /c:declaration/@vessel: '{vessel}', //c:line: [{ c:weight: 12 }, { c:weight: 7 }] }`,
    `- call: sign-in
  request: POST /session
  form: { user: mole, password: '{secret.PASSWORD}' }
  auth: none`,
    `- call: hand-in
  request: POST /documents
  multipart: { vessel: '{vessel}', manifest: { file: manifest.pdf } }`,
    `- call: report-tide
  request: POST /tides
  xml: '<tide><height>{2.06}</height></tide>'`,
    `- call: note
  request: POST /notes
  text: 'due on {day}'
  type: text/markdown`,
    `- call: upload
  request: PUT /soundings/N1
  file: sounding.png
  type: image/png`,
    `- call: vessels
  request: POST /graphql
  graphql:
    query: 'query($flag: String) { vessels(flag: $flag) { id } }'
    variables: { flag: 'NO' }`,
    `- call: search
  request: POST /vessels/search
  json: { flag: 'NO' }
  changes: false
  repeatable: true
  timeout: 20s
  retry: { tries: 3 }`,
    `- call: arrivals
  request: GET /arrivals
  paging: { next: link('next'), items: $.arrivals }
  rate-limit: 2/s
  max-wait: 5m`,
    `- call: watch-clearance
  request: GET /jobs/{job}
  poll: { until: $.state == 'cleared', every: 1s to 10s, within: 2m }`,
    `- call: moved
  request: GET /berths/deepest
  redirects: stop
  expect: [status == 302]`,
    `- call: tides
  request: GET /tides
  read-as: xml
  namespaces: { t: 'urn:kvitnes:tides' }
  keep: { high: "xpath('string(//t:height)')" }`,
    `- call: sounding
  request: GET /soundings/N1
  save: ../out/sounding-{berth}.png
  replace: true
  max-body: 20MiB`,
    `- call: berths
  request: GET /berths
  fresh-for: 1h`,
    `- call: movements
  request: GET /movements
  read-as: events
  until-event: length($) >= 3`,
    `- call: berth
  request: GET /berths/{berth}
  once: first-slice
  when: berth != ''`,
  ],
  graphql: [
    `- call: vessels
  request: POST /graphql
  graphql:
    query: 'query Fleet($flag: String) { vessels(flag: $flag) { id } }'
    variables: { flag: 'NO' }
    operation: Fleet`,
  ],
  paging: [
    `- call: arrivals
  request: GET /arrivals
  paging: { next: link('next'), items: $.arrivals, max-pages: 20 }`,
    `- call: arrivals
  request: GET /arrivals
  paging:
    query: { page: '{page_count + 1}' }
    while: length($.arrivals) > 0
    items: $.arrivals`,
  ],
  'max-pages': [
    `- call: arrivals
  request: GET /arrivals
  paging: { next: link('next'), max-pages: { count: 5, then: stop } }`,
  ],
  poll: [
    `- call: watch-clearance
  request: GET /jobs/{job}
  poll:
    until: $.state == 'cleared'
    give-up-when: $.state in ['refused', 'lapsed']
    tolerate: 3
    every: 1s to 10s
    within: 2m
    progress: $.percent`,
  ],
  'until-event': [
    `- call: movements
  request: GET /movements
  read-as: events
  until-event: { until: "$[-1].event == 'moored'", max-events: 50, within: 1m }`,
  ],
  undo: [
    `- call: reserve
  request: POST /berths/{berth}/reservations
  json: { vessel: '{vessel}' }
  undo:
    request: POST /berths/{berth}/release
    query: { reason: test }
    headers: { Accept-Language: en }
    json: { vessel: '{vessel}' }
    expect: [status == 200]`,
    `- call: reserve
  request: POST /berths/{berth}/reservations
  json: { vessel: '{vessel}' }
  undo:
    request: POST /berths/{berth}/release
    json-file: release.json
    set: { $.vessel: '{vessel}' }`,
    `- call: reserve
  request: POST /berths/{berth}/reservations
  undo: { request: 'POST /release', form: { berth: '{berth}' } }`,
    `- call: reserve
  request: POST /berths/{berth}/reservations
  undo: { request: 'POST /release', multipart: { berth: '{berth}' } }`,
    `- call: reserve
  request: POST /berths/{berth}/reservations
  undo: { request: 'POST /release', xml: '<berth>{berth}</berth>', type: text/xml }`,
    `- call: reserve
  request: POST /berths/{berth}/reservations
  undo: { request: 'POST /release', xml-file: release.xml, set: { //berth: '{berth}' } }`,
    `- call: reserve
  request: POST /berths/{berth}/reservations
  undo: { request: 'POST /release', text: '{berth}' }`,
    `- call: reserve
  request: POST /berths/{berth}/reservations
  undo: { request: 'POST /release', file: release.bin }`,
    `- call: reserve
  request: POST /berths/{berth}/reservations
  undo: { request: 'POST /graphql', graphql: { query: 'mutation { release }' } }`,
  ],
};
