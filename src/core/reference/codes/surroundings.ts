import type { CodePages } from './definition.ts';

/** What is wrong around the files: inputs, secrets, the command line, the machine. */
export const surroundingCodes: CodePages = {
  'input-missing': {
    about:
      'The chain takes inputs that were neither given nor have a default. All of them are listed. On a terminal they are asked for, unless --no-prompt says otherwise.',
    example: { command: 'run input.chain.yaml --no-prompt' },
  },
  'unknown-input': {
    about: 'The chain takes no input of this name.',
    example: { command: 'run chains/berth.chain.yaml --input dya=2026-05-23' },
  },
  'input-wrong': {
    about: 'An input is not of the type that the chain says.',
    example: { command: 'run chains/berth.chain.yaml --input day=tomorrow' },
  },
  'not-a-choice': {
    about: 'An input is not among the values that the chain allows.',
    example: { command: 'run input.chain.yaml --input quay=X' },
  },
  'choices-chain': {
    about:
      'The chain that an input takes its choices from needs an input itself, changes something, does not give the name that was said, or gave no list of texts, numbers or objects of a value and a label. It runs before anything else, so it may only read.',
    example: { command: 'check choices.chain.yaml' },
  },
  'change-not-allowed': {
    about:
      'A call would change something at a deployment that is guarded by changes: when-allowed or never, so nothing of the chain is sent. Allow it by name for this run (--allow-changes live); a POST that only reads says changes: false.',
    example: { command: '@guarded run chains/berth.chain.yaml' },
  },
  'needs-terminal': {
    about: 'Something must be asked, and there is no terminal to ask it on.',
    example: { command: 'run chains/berth.chain.yaml --accept' },
  },
  'secret-missing': {
    about:
      'Secrets that the files ask for are neither in the environment (NAME, or the file that NAME_FILE names) nor in secrets.env beside batharon.yaml. Their values are never shown.',
    example: { command: '@without-secrets check' },
  },
  'not-a-secret': {
    about:
      'A value such as the empty text, true or null can be no secret: masking it would make every record unreadable.',
    example: { command: '@secret=true check' },
  },
  'secret-too-short': {
    about:
      'A secret of fewer than 6 characters stands in ordinary text too often to be searched for. It is masked where it is sent and where it stands alone.',
    example: { command: '@secret=abcde check' },
  },
  'secrets-readable': {
    about: 'secrets.env can be read by other users of the machine: chmod 600 secrets.env.',
    example: { command: '@readable check' },
  },
  'secrets-in-git': {
    about: 'secrets.env is in a git repository and no .gitignore names it, so that the next commit would publish it.',
    example: { command: '@in-git check' },
  },
  'looks-like-secret': {
    about:
      'A literal in a file looks like a credential, by its form or by its name. Put it into secrets.env and write {secret.NAME}: then it is masked everywhere and in no repository.',
    example: { steps: '- call: list\n  request: GET /list\n  headers: { X-Api-Key: kvitnes-0a1b2c3d }' },
  },
  'plain-http': {
    about: 'Credentials would go over plain http to another machine, readable by everybody on the way.',
    example: {
      project: 'apis:\n  harbour:\n    url: http://harbour.example/v1\n    auth: { bearer: "{secret.TOKEN}" }\n',
    },
  },
  'key-not-readable': {
    about:
      'A certificate, a key or the file of an authority cannot be read, or is not what it should be. Paths of tls: are relative to batharon.yaml.',
    example: { project: 'apis:\n  harbour:\n    url: https://harbour.example/v1\n    tls: { ca: harbour-ca.pem }\n' },
  },
  'not-verified': {
    about:
      'With verify: false anybody on the way can answer in the place of the server, and read the credentials. Give the authority that signed its certificate with tls: {ca: file}.',
    example: { project: 'apis:\n  harbour:\n    url: https://harbour.example/v1\n    tls: { verify: false }\n' },
  },
  'sign-in-needed': {
    about:
      'Somebody has to sign in, with a browser or a code, and there is nobody to ask: no terminal, or --no-prompt. Sign in once with batharon sign-in; the refresh token that comes of it is kept for the runs after it.',
    example: { command: '@person sign-in pilots --no-prompt' },
  },
  'circular-chain': {
    about: 'A chain comes to use itself, directly or through others, and would never end.',
    example: { command: '@sign-in-circle check' },
  },
  'missing-step-input': {
    about: 'A chain that is used takes an input without a default, and is not given it.',
    example: { command: '@sign-in-lacks check' },
  },
  'unknown-step-input': {
    about: 'A chain that is used is given an input that it does not take.',
    example: { command: '@sign-in-takes check' },
  },
  'not-given': {
    about: 'A name is read of what a chain gives, and the chain gives no such thing. See outputs: in its file.',
    example: { command: '@sign-in-gives check' },
  },
  'not-writable': {
    about:
      'The operating system refused to write or read a file or folder: no permission, no room, or a file where a folder is meant.',
    example: { command: '@file-for-record run chains/berth.chain.yaml' },
  },
  'invalid-option': {
    about: 'The command line makes no sense as it stands. Each command tells what it takes with --help.',
    example: { command: 'run chains/berth.chain.yaml --input day' },
  },
  'column-missing': {
    about:
      'columns: names a column that the table does not have. The whole table is looked at before anything is sent.',
    example: { command: '@table run chains/cargo.chain.yaml --input cargo=@lacking.csv' },
  },
  'invalid-cell': {
    about:
      'Cells of a table do not fit the types under columns:. All of them are counted, the first 50 told with row and column, before anything is sent.',
    example: { command: '@table run chains/cargo.chain.yaml --input cargo=@bad.csv' },
  },
};
