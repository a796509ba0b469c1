import { existsSync, readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { LOCAL_FILE, PROJECT_FILE, SECRETS_FILE } from '../adapters/project-files.ts';
import type { MaskedOutput } from '../adapters/masked-output.ts';

export const DEMO_PORT = 4090;

/** The harbour's credentials: made up, known to everybody, and treated as secrets all the same. */
export const DEMO_SECRETS = { token: 'kvitnes-pilot-7f3a91', key: 'outer-mole-52c8d0' };

/** What opens the office, the gate and the register of the harbour, which say so themselves. */
const OFFICE_SECRETS = {
  OFFICE_SECRET: 'brass-lantern-19c4',
  GATE_PASSWORD: 'fog-horn-77',
  NOTICE_KEY: 'mooring-line-6e20',
};

/** The demo project as it is shipped, beside the built program. */
function demoFolder(): string {
  const found = ['../demo', '../../demo']
    .map((each) => path.join(__dirname, each))
    .find((each) => existsSync(path.join(each, PROJECT_FILE)));
  if (found === undefined) throw new Error('The demo project is missing from this installation');
  return found;
}

export function projectIn(folder: string): string {
  return path.join(folder, PROJECT_FILE);
}

/** Copies the demo project to a folder, with the harbour's present port and its secrets. */
export function copyDemo(folder: string, port: number, exit: MaskedOutput): void {
  const from = demoFolder();
  const copy = (relative: string): void => {
    for (const entry of readdirSync(path.join(from, relative), { withFileTypes: true })) {
      const file = path.join(relative, entry.name);
      if (entry.name.startsWith('.') || entry.name === SECRETS_FILE) continue;
      if (entry.isDirectory()) copy(file);
      else
        exit.writeFile(
          path.join(folder, file),
          readFileSync(path.join(from, file), 'utf8').replaceAll(`127.0.0.1:${DEMO_PORT}`, `127.0.0.1:${port}`),
          0o644,
        );
    }
  };
  copy('.');
  exit.writeFile(path.join(folder, '.gitignore'), `${SECRETS_FILE}\n${LOCAL_FILE}\n.batharon/\n`, 0o644);
  exit.writeFile(
    path.join(folder, SECRETS_FILE),
    Object.entries({ HARBOUR_TOKEN: DEMO_SECRETS.token, HARBOUR_KEY: DEMO_SECRETS.key, ...OFFICE_SECRETS })
      .map(([name, value]) => `${name}=${value}\n`)
      .join(''),
  );
}

/** The chains of the demo with what each is about. */
export function demoChains(): readonly Readonly<{ file: string; about: string }>[] {
  const folder = path.join(demoFolder(), 'chains');
  return readdirSync(folder)
    .filter((name) => name.endsWith('.chain.yaml'))
    .sort()
    .map((name) => {
      const about = /^about: (.*)$/m.exec(readFileSync(path.join(folder, name), 'utf8'))?.[1] ?? '';
      return { file: `chains/${name}`, about: about.replace(/^"(.*)"$/, '$1') };
    });
}

/** A stop of the tour: what is shown, the command, and the exit status with which it is meant to end. */
type Stop = Readonly<{ about: string; shown: string; args: readonly string[]; exit: number }>;

export const tour: readonly Stop[] = [
  {
    about:
      'A chain: the arrivals of a day, a free berth, and a reservation that uses values of both responses. Each line is ' +
      'a call: its number, its name, the request, the status code, the duration, and the values that it kept.',
    shown: 'batharon run chains/berth.chain.yaml',
    args: ['run', 'chains/berth.chain.yaml'],
    exit: 0,
  },
  {
    about: 'The last exchange as it was sent and received. The token is a secret and therefore masked.',
    shown: 'batharon look reserve',
    args: ['look', 'reserve'],
    exit: 0,
  },
  {
    about: 'Find a value in a response, and the paths that lead to it.',
    shown: "batharon find 'North quay 3' --call berths",
    args: ['find', 'North quay 3', '--call', 'berths'],
    exit: 0,
  },
  {
    about: 'Read any value of a recorded response, with the path of each place.',
    shown: 'batharon value \'$.arrivals[?@.state == "expected"].vessel\' --call arrivals --paths',
    args: ['value', '$.arrivals[?@.state == "expected"].vessel', '--call', 'arrivals', '--paths'],
    exit: 0,
  },
  {
    about: 'A chain that fails: the expectation, the values that it read, and where each value came from.',
    shown: 'batharon run chains/too-deep.chain.yaml',
    args: ['run', 'chains/too-deep.chain.yaml'],
    exit: 1,
  },
  {
    about:
      'A loop over all items of a paged response. Only items that fail have lines: 2#3.1 is step 2, item 3, its first ' +
      'step. Items that fail in the same way are shown once.',
    shown: 'batharon run chains/arrivals.chain.yaml',
    args: ['run', 'chains/arrivals.chain.yaml'],
    exit: 1,
  },
  {
    about: 'A chain with mistakes: all of them are found before anything is sent.',
    shown: 'batharon check mistakes/mistakes.yaml',
    args: ['check', 'mistakes/mistakes.yaml'],
    exit: 2,
  },
];
