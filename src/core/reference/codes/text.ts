import type { CodePages } from './definition.ts';

/** Mistakes in the text of a file. */
export const textCodes: CodePages = {
  'not-yaml': {
    about:
      'The file does not follow the rules of YAML 1.2, so nothing of it can be read. The place is where the parser gave up; the mistake is there or a line above: a missing ":", a quote that is not closed, an indentation that fits nothing.',
    example: { chain: 'steps:\n  - say: "an open quote\n' },
  },
  'tab-indented': {
    about:
      'YAML indents with blanks alone, since nobody sees how wide a tab is meant to be. Replace the tab by two blanks.',
    example: { chain: 'steps:\n\t- say: hello\n' },
  },
  'not-utf8': {
    about:
      'Files are read as UTF-8, and this one holds bytes that no UTF-8 text has. Save it in this encoding; editors offer it under "save as".',
    example: { command: 'check not-utf8.chain.yaml' },
  },
  'file-too-big': {
    about:
      'A chain or project file has at most 4 MiB and nests at most 64 levels deep. Data for many requests belong into a table or an input, not into the chain.',
    example: { chain: `steps:\n  - let: { x: 1 }\n    about: ${'['.repeat(80)}${']'.repeat(80)}\n` },
  },
  'duplicate-key': {
    about:
      'A mapping holds each key once; of two, one would be lost without a word. Put what belongs together under one of them.',
    example: { steps: '- say: one\n  say: two' },
  },
  'unknown-key': {
    about:
      'A key that means nothing at its place, so what stands under it would be ignored. Words for the same thing from everyday use are answered with the one that is used here.',
    example: { steps: '- call: arrivals\n  request: GET /arrivals\n  assert: [status == 200]' },
  },
  'key-missing': {
    about: 'Something cannot be understood without this key.',
    example: { steps: '- call: arrivals' },
  },
  'needs-quotes': {
    about:
      'YAML takes the signs { [ ! & * % @ ` " \' and the pairs ": " and " #" for its own. Where an expression or a placeholder needs one of them, the whole value stands in quotes. The corrected line is ready to paste, and check --fix writes it.',
    example: { steps: '- call: vessel\n  request: GET /vessels\n  expect:\n    - !exists($.error)' },
  },
  'yes-is-string': {
    about:
      'In YAML 1.2 yes, no, on and off are texts, and are sent as texts. Write true or false for a condition, or put the word in quotes to say that the text is meant.',
    example: { steps: '- call: book\n  request: POST /bookings\n  json: { urgent: yes }' },
  },
  'date-unquoted': {
    about:
      "A date without quotes is a subtraction: 2026-05-23 is 1998. Write date_time('2026-05-23') for the instant, or '2026-05-23' to compare with a text.",
    example: { steps: '- let: { late: now() > 2026-05-23 }' },
  },
  'number-rewritten': {
    about:
      'YAML reads numbers such as 01234, +5 or 0x1F as others than their digits say. Quote them to send the digits, or write the number that is meant.',
    example: { steps: '- call: find\n  request: POST /find\n  json: { zip: 01234 }' },
  },
  'yaml-not-allowed': {
    about:
      'Tags, merge keys, keys that are no texts, and second documents are parts of YAML that make files hard to read and are not used here.',
    example: { chain: 'steps:\n  - <<: { say: hello }\n    say: again\n' },
  },
  'wrong-type': {
    about: 'A key takes a single value, a list or a mapping, and another of these stands there.',
    example: { chain: 'steps: {}\n' },
  },
  'does-not-parse': {
    about:
      'An expression does not follow the grammar. The place is the first character that does not fit, with what was expected there.',
    example: { steps: '- let: { x: $.a == }' },
  },
  'invalid-placeholder': {
    about:
      'A placeholder is {expression}, closed in the same text. Write {{ and }} for the signs themselves; JSON is written as YAML under json:, not as text.',
    example: { steps: '- say: "{vessel"' },
  },
  'placeholder-in-key': {
    about:
      'Only values have placeholders, so that one sees which members a request has. An object whose keys are data is built with object_of() and put in as one placeholder.',
    example: { steps: '- call: tag\n  request: POST /tags\n  json: { "{name}": 1 }' },
  },
  'sent-literally': {
    about:
      'A text that is exactly a path, or a name that there is, goes out as these words. Mostly a placeholder is meant: "{name}".',
    example: {
      steps:
        '- let: { berth: 1 + 1 }\n- call: book\n  request: POST /bookings\n  json: { berth: berth, other: "{berth}" }',
    },
  },
  'braces-in-expression': {
    about:
      'Placeholders are for texts. Where an expression stands, names stand by themselves; the braces are read as if they were not there.',
    example: { steps: '- let: { a: 1 }\n- let: { b: "{a}" }\n- say: "{b}"' },
  },
  'ambiguous-minus': {
    about:
      "A minus between two names could be part of one, and would be a subtraction: $.next-cursor. Write $['next-cursor'] for the member, or blanks around the minus for the difference.",
    example: { steps: '- call: list\n  request: GET /list\n  keep: { next: $.next-cursor }' },
  },
  'doubled-brace': {
    about:
      'A URL holds no braces, so {{name}} in a target is a placeholder that was written in another habit. One brace on each side makes a placeholder.',
    example: { steps: '- call: vessel\n  request: GET /vessels/{{id}}' },
  },
  'reserved-sign': {
    about: 'RFC 6570 keeps the signs = , ! @ | at the start of an expression for later. Leave the sign out.',
    example: { steps: '- call: vessel\n  request: GET /vessels/{=id}' },
  },
  'parameter-unnamed': {
    about:
      'The name of a parameter in {?...} is the name of the variable; an expression has none. Put the parameter under query: with a name.',
    example: { steps: '- call: list\n  request: GET /list{?1 + 1}' },
  },
  'no-method': {
    about: 'A request line begins with its method in capitals, as API documentation prints it: GET /vessels.',
    example: { steps: '- call: list\n  request: /vessels' },
  },
  'space-in-target': {
    about:
      'A URL has no blanks. One in a value is encoded by itself when the value comes in by a placeholder; a literal one is written %20.',
    example: { steps: '- call: list\n  request: GET /my vessels' },
  },
  'invalid-target': {
    about: 'A target is a path that begins with /, a whole URL, or exactly one placeholder.',
    example: { steps: '- call: list\n  request: GET vessels' },
  },
  'invalid-duration': {
    about: 'A duration is a number followed by one unit: 250ms, 1.5s, 2m, 1h, 3d.',
    example: { steps: '- call: list\n  request: GET /list\n  timeout: 10 seconds' },
  },
  'invalid-range': {
    about:
      'A pause is one duration, or two with "to" between them: the pause then doubles from the first to the second.',
    example: {
      steps: "- call: job\n  request: GET /jobs/1\n  poll: { until: $.state == 'done', every: 30s to 1s }",
    },
  },
  'invalid-rate': {
    about: 'A rate limit is a number of requests per s, min, h, day or month. Write several limits as a list.',
    example: { steps: '- call: list\n  request: GET /list\n  rate-limit: 8 per second' },
  },
  'invalid-size': {
    about: 'A size is a number followed by one unit: B, kB, MB, GB, KiB, MiB or GiB.',
    example: { steps: '- call: list\n  request: GET /list\n  max-body: 64 megabytes' },
  },
  'invalid-time': {
    about: 'The time at which quotas reset is hours, minutes and a time zone: "00:00 UTC", "06:30 Europe/Lisbon".',
    example: {
      project: 'apis:\n  harbour: { url: http://127.0.0.1:4090/v1, rate-limit: 1000/day, resets: midnight }\n',
    },
  },
  'unknown-zone': {
    about: 'Time zones have IANA names such as Europe/Lisbon. Offsets such as +01:00 say nothing of summer time.',
    example: { project: 'zone: Europe/Lisbn\napis:\n  harbour: { url: http://127.0.0.1:4090/v1 }\n' },
  },
  'two-bodies': {
    about: 'A request has one body.',
    example: { steps: '- call: book\n  request: POST /bookings\n  json: { a: 1 }\n  form: { a: 1 }' },
  },
  'keys-clash': {
    about: 'Two keys that each make sense do not together.',
    example: {
      chain: 'inputs:\n  day: { type: date, default: "2026-05-23", optional: true }\nsteps: [say: "{day}"]\n',
    },
  },
};
