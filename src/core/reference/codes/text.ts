import type { CodePages } from './definition.ts';

/** Mistakes in the text of a file. */
export const textCodes: CodePages = {
  'not-yaml': {
    about:
      'The file does not follow the rules of YAML 1.2, so nothing of it can be read. The place is where the parser gave up; the mistake is there or in the line above: a missing ":", a quote that is not closed, a wrong indentation.',
    example: { chain: 'steps:\n  - say: "an open quote\n' },
  },
  'tab-indented': {
    about: 'YAML indents with spaces only. Replace the tab with two spaces.',
    example: { chain: 'steps:\n\t- say: hello\n' },
  },
  'not-utf8': {
    about:
      'Files are read as UTF-8, and this one has bytes that are not valid UTF-8. Save it in this encoding; editors offer it under "save as".',
    example: { command: 'check not-utf8.chain.yaml' },
  },
  'file-too-big': {
    about:
      'A chain or project file can have at most 4 MiB and 64 levels of nesting. Put data for many requests into a table or an input.',
    example: { chain: `steps:\n  - let: { x: 1 }\n    about: ${'['.repeat(80)}${']'.repeat(80)}\n` },
  },
  'duplicate-key': {
    about: 'A mapping has the same key twice; one of the two would be lost without notice. Merge them into one.',
    example: { steps: '- say: one\n  say: two' },
  },
  'unknown-key': {
    about:
      'A key is not known in its place, so its value would be ignored. For common words with the same meaning, the key that is used here is suggested.',
    example: { steps: '- call: arrivals\n  request: GET /arrivals\n  assert: [status == 200]' },
  },
  'key-missing': {
    about: 'A required key is missing.',
    example: { steps: '- call: arrivals' },
  },
  'needs-quotes': {
    about:
      'YAML gives the characters { [ ! & * % @ ` " \' and the pairs ": " and " #" a meaning of their own. If an expression or a placeholder has one of them, put the whole value in quotes. The corrected line is ready to paste, and check --fix writes it.',
    example: { steps: '- call: vessel\n  request: GET /vessels\n  expect:\n    - !exists($.error)' },
  },
  'yes-is-string': {
    about:
      'In YAML 1.2 yes, no, on and off are strings, and are sent as strings. Write true or false for a boolean, or put the word in quotes if you mean the string.',
    example: { steps: '- call: book\n  request: POST /bookings\n  json: { urgent: yes }' },
  },
  'date-unquoted': {
    about:
      "A date without quotes is a subtraction: 2026-05-23 is 1998. Write date_time('2026-05-23') for the point in time, or '2026-05-23' to compare with a string.",
    example: { steps: '- let: { late: now() > 2026-05-23 }' },
  },
  'number-rewritten': {
    about:
      'YAML reads numbers such as 01234, +5 or 0x1F as other numbers than their digits say. Put them in quotes to send the characters, or write the number that you mean.',
    example: { steps: '- call: find\n  request: POST /find\n  json: { zip: 01234 }' },
  },
  'yaml-not-allowed': {
    about:
      'Tags, merge keys, keys that are not strings, and second documents make files hard to read and are not supported.',
    example: { chain: 'steps:\n  - <<: { say: hello }\n    say: again\n' },
  },
  'wrong-type': {
    about: 'The key takes a single value, an array or a mapping, and the value is another of these.',
    example: { chain: 'steps: {}\n' },
  },
  'does-not-parse': {
    about:
      'An expression does not follow the grammar. The place is the first character that does not fit, with what was expected there.',
    example: { steps: '- let: { x: $.a == }' },
  },
  'invalid-placeholder': {
    about:
      'A placeholder is {expression}, closed in the same string. Write {{ and }} for literal braces; write JSON as YAML under json, not as text.',
    example: { steps: '- say: "{vessel"' },
  },
  'placeholder-in-key': {
    about:
      'Only values can have placeholders, so that the members of a request are visible in the file. To build an object whose names are data, use object_of() and insert it as a placeholder.',
    example: { steps: '- call: tag\n  request: POST /tags\n  json: { "{name}": 1 }' },
  },
  'sent-literally': {
    about:
      'A string that is exactly a path, or a name in scope, is sent literally. Usually a placeholder is meant: "{name}".',
    example: {
      steps:
        '- let: { berth: 1 + 1 }\n- call: book\n  request: POST /bookings\n  json: { berth: berth, other: "{berth}" }',
    },
  },
  'braces-in-expression': {
    about: 'Placeholders are for strings. In an expression, names are written without braces; the braces are ignored.',
    example: { steps: '- let: { a: 1 }\n- let: { b: "{a}" }\n- say: "{b}"' },
  },
  'ambiguous-minus': {
    about:
      "A minus between two names could be part of a name, and would be a subtraction: $.next-cursor. Write $['next-cursor'] for the member, or spaces around the minus for the difference.",
    example: { steps: '- call: list\n  request: GET /list\n  keep: { next: $.next-cursor }' },
  },
  'doubled-brace': {
    about: 'A URL has no braces. Placeholders in a target are written with one brace on each side: {name}.',
    example: { steps: '- call: vessel\n  request: GET /vessels/{{id}}' },
  },
  'reserved-sign': {
    about: 'RFC 6570 reserves the characters = , ! @ | at the start of an expression. Remove the character.',
    example: { steps: '- call: vessel\n  request: GET /vessels/{=id}' },
  },
  'parameter-unnamed': {
    about:
      'The name of a parameter in {?...} is the name of the variable; an expression has none. Put the parameter under query with a name.',
    example: { steps: '- call: list\n  request: GET /list{?1 + 1}' },
  },
  'no-method': {
    about: 'A request line begins with its method in capitals, as API documentation prints it: GET /vessels.',
    example: { steps: '- call: list\n  request: /vessels' },
  },
  'space-in-target': {
    about: 'A URL has no spaces. A value in a placeholder is percent-encoded for you; write a literal space as %20.',
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
    about: 'A rate limit is a number of requests per s, min, h, day or month. Write several limits as an array.',
    example: { steps: '- call: list\n  request: GET /list\n  rate-limit: 8 per second' },
  },
  'invalid-size': {
    about: 'A size is a number followed by one unit: B, kB, MB, GB, KiB, MiB or GiB.',
    example: { steps: '- call: list\n  request: GET /list\n  max-body: 64 megabytes' },
  },
  'invalid-time': {
    about:
      'The time at which quotas start again has hours, minutes and a time zone: "00:00 UTC", "06:30 Europe/Lisbon".',
    example: {
      project: 'apis:\n  harbour: { url: http://127.0.0.1:4090/v1, rate-limit: 1000/day, resets: midnight }\n',
    },
  },
  'unknown-zone': {
    about: 'Time zones have IANA names such as Europe/Lisbon. Offsets such as +01:00 do not cover summer time.',
    example: { project: 'zone: Europe/Lisbn\napis:\n  harbour: { url: http://127.0.0.1:4090/v1 }\n' },
  },
  'two-bodies': {
    about: 'A request has one body.',
    example: { steps: '- call: book\n  request: POST /bookings\n  json: { a: 1 }\n  form: { a: 1 }' },
  },
  'keys-clash': {
    about: 'Two keys that are valid by themselves cannot be used together.',
    example: {
      chain: 'inputs:\n  day: { type: date, default: "2026-05-23", optional: true }\nsteps: [say: "{day}"]\n',
    },
  },
};
