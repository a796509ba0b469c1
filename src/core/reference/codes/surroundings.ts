import type { CodePages } from './definition.ts';

/** What is wrong around the files: inputs, secrets, the command line, the machine. */
export const surroundingCodes: CodePages = {
  'input-missing': {
    about:
      'The chain has required inputs that were not given. All of them are listed. On a terminal they are asked for, except with --no-prompt.',
    example: { command: 'run input.chain.yaml --no-prompt' },
  },
  'unknown-input': {
    about: 'The chain has no input with this name.',
    example: { command: 'run chains/berth.chain.yaml --input dya=2026-05-23' },
  },
  'input-wrong': {
    about: 'An input does not have the type that the chain declares.',
    example: { command: 'run chains/berth.chain.yaml --input day=tomorrow' },
  },
  'not-a-choice': {
    about: 'An input is not one of the values that the chain allows.',
    example: { command: 'run input.chain.yaml --input quay=X' },
  },
  'choices-chain': {
    about:
      'The chain that provides the choices of an input needs an input itself, changes something, or has no such output: an array of strings, of numbers, or of objects with value and label. It runs before everything else, so it may only read.',
    example: { command: 'check choices.chain.yaml' },
  },
  'change-not-allowed': {
    about:
      'A call would change something at a deployment that is guarded by changes: when-allowed or never, so nothing of the chain is sent. Allow it by name for this run (--allow-changes live). If the call only reads, add changes: false to it.',
    example: { command: '@guarded run chains/berth.chain.yaml' },
  },
  'needs-terminal': {
    about: 'A question must be answered, and there is no terminal.',
    example: { command: 'run chains/berth.chain.yaml --accept' },
  },
  'not-divisible': {
    about:
      'With --slice or --slices each machine does its part of the items of the outermost loops, and all that stands outside of them. What changes something there would be done by each: add once: first-slice or once: last-slice to the step. A chain without a loop has nothing to divide.',
    example: { command: 'run chains/berth.chain.yaml --slice 1/3' },
  },
  'needs-redis': {
    about:
      'total-concurrency counts the requests in flight of all processes that share limits, and the project names no Redis in which they could: it has no effect, unless BATHARON_REDIS names one.',
    example: { command: '@total-concurrency check' },
  },
  'redis-not-usable': {
    about:
      'The Redis in which limits are shared cannot be reached, refuses its password, or would not keep them. The message says which. A run waits for it, up to max-wait, and then pauses with exit status 3.',
    example: { command: '@redis-gone limits' },
  },
  'secret-missing': {
    about:
      'Secrets that the files read are neither in the environment (NAME, or the file that NAME_FILE names) nor in secrets.env next to batharon.yaml. Their values are never shown.',
    example: { command: '@without-secrets check' },
  },
  'secret-command-failed': {
    about:
      'The command that gives a secret was not found, failed, printed nothing, or did not end within 10 seconds. It runs without a shell, in the folder of batharon.yaml, with no input, once a run and only when the secret is needed; what it prints on standard error stands in the message.',
    example: { command: '@secret-command run chains/vault.chain.yaml' },
  },
  'not-a-secret': {
    about:
      'A value such as the empty string, true or null cannot be a secret: masking it would make every record unreadable.',
    example: { command: '@secret=true check' },
  },
  'secret-too-short': {
    about:
      'A secret of fewer than 6 characters occurs in ordinary text too often to be searched for. It is masked where it is sent and where it is a whole value.',
    example: { command: '@secret=abcde check' },
  },
  'secret-is-common': {
    about:
      'A secret is an ordinary word, or a plain text that the project file or a chain holds too. Masking it wherever it stands would hide what is no secret, so it is masked where it is sent and where it is a whole value.',
    example: { command: '@secret=harbour check' },
  },
  'secrets-readable': {
    about: 'secrets.env can be read by other users of the machine: chmod 600 secrets.env.',
    example: { command: '@readable check' },
  },
  'secrets-in-git': {
    about: 'secrets.env is in a git repository and not in .gitignore, so that the next commit could publish it.',
    example: { command: '@in-git check' },
  },
  'looks-like-secret': {
    about:
      'A literal in a file looks like a credential, by its form or by its name. Put it into secrets.env and write {secret.NAME}: then it is masked everywhere and in no repository.',
    example: { steps: '- call: list\n  request: GET /list\n  headers: { X-Api-Key: kvitnes-0a1b2c3d }' },
  },
  'looks-like-placeholder': {
    about:
      'A text that is sent is what documentation writes where a value belongs, such as YOUR_KEY, <id> or xxxxx. Make it an input, and write its name in braces.',
    example: { steps: '- call: list\n  request: GET /list\n  query: { berth: YOUR_BERTH }' },
  },
  'secret-in-file': {
    about:
      'A text in a file is the value of a secret in secrets.env. Write {secret.NAME} in its place: then it is in no repository and masked everywhere.',
    example: { command: '@known-secret check chains/pasted.chain.yaml' },
  },
  'plain-http': {
    about: 'Credentials would be sent over plain http to another machine, readable by anyone on the network path.',
    example: {
      project: 'apis:\n  harbour:\n    url: http://harbour.example/v1\n    auth: { bearer: "{secret.TOKEN}" }\n',
    },
  },
  'key-not-readable': {
    about:
      'A certificate, a key or the file of an authority cannot be read, or is not valid. Paths under tls are relative to batharon.yaml.',
    example: { project: 'apis:\n  harbour:\n    url: https://harbour.example/v1\n    tls: { ca: harbour-ca.pem }\n' },
  },
  'not-verified': {
    about:
      'With verify: false anyone on the network path can impersonate the server and read the credentials. Trust the authority that signed its certificate instead: tls: {ca: file}.',
    example: { project: 'apis:\n  harbour:\n    url: https://harbour.example/v1\n    tls: { verify: false }\n' },
  },
  'sign-in-needed': {
    about:
      'A person has to sign in, with a browser or a code, and there is no terminal, or --no-prompt was given. Sign in once with batharon sign-in; later runs use the refresh token.',
    example: { command: '@person sign-in pilots --no-prompt' },
  },
  'circular-chain': {
    about: 'A chain uses itself, directly or through others, and would never end.',
    example: { command: '@sign-in-circle check' },
  },
  'missing-step-input': {
    about: 'A used chain has a required input that the step does not pass.',
    example: { command: '@sign-in-lacks check' },
  },
  'unknown-step-input': {
    about: 'A used chain has no input with a name that the step passes.',
    example: { command: '@sign-in-takes check' },
  },
  'not-given': {
    about: 'An output is read that the used chain does not have. See outputs in its file.',
    example: { command: '@sign-in-gives check' },
  },
  'not-writable': {
    about:
      'The operating system refused to write or read a file or folder: no permission, no space, or a file where a folder is expected.',
    example: { command: '@file-for-record run chains/berth.chain.yaml' },
  },
  'invalid-option': {
    about: 'The command line is not valid. The help of each command describes it: batharon COMMAND --help.',
    example: { command: 'run chains/berth.chain.yaml --input day' },
  },
  'column-missing': {
    about: 'columns names a column that the table does not have. The whole table is checked before anything is sent.',
    example: { command: '@table run chains/cargo.chain.yaml --input cargo=@lacking.csv' },
  },
  'invalid-cell': {
    about:
      'Cells of a table do not fit the types under columns. All of them are counted, and the first 50 are shown with row and column, before anything is sent.',
    example: { command: '@table run chains/cargo.chain.yaml --input cargo=@bad.csv' },
  },
};
