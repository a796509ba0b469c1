import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { FORM, LineReader } from '../../src/core/journal/line-reader.ts';

/** The built program; another one where the tests are run against a package that was installed. */
export const PROGRAM = process.env['BATHARON_PROGRAM'] ?? path.join(__dirname, '../../dist/batharon.cjs');

export type Result = Readonly<{ status: number | null; out: string; err: string; all: string }>;

export type RunOptions = Readonly<{
  env?: Record<string, string>;
  input?: string;
  columns?: number;
  within?: string;
  until?: () => boolean;
  /** How it is ended then; SIGINT unless said. */
  signal?: NodeJS.Signals;
  again?: boolean;
  /** Nobody reads the error output. */
  isErrorClosed?: boolean;
}>;

/** A folder of its own with some files in it, and the built program run in it. */
export class Folder {
  readonly path = mkdtempSync(path.join(tmpdir(), 'batharon-test-'));

  constructor(files: Readonly<Record<string, string>> = {}) {
    for (const [name, text] of Object.entries(files)) this.write(name, text);
  }

  write(name: string, text: string | Uint8Array): void {
    const file = path.join(this.path, name);
    mkdirSync(path.dirname(file), { recursive: true });
    writeFileSync(file, text, { mode: 0o600 });
  }

  read(name: string): string {
    return readFileSync(path.join(this.path, name), 'utf8');
  }

  has(name: string): boolean {
    return existsSync(path.join(this.path, name));
  }

  /** Every file below, with its bytes as text. */
  all(): readonly (readonly [name: string, text: string])[] {
    return readdirSync(this.path, { recursive: true, withFileTypes: true })
      .filter((entry) => entry.isFile())
      .map((entry) => path.join(entry.parentPath, entry.name))
      .flatMap((file) => {
        // The program under way may have renamed it since.
        const text = readIfThere(file);
        return text === undefined ? [] : [[path.relative(this.path, file), text] as const];
      });
  }

  /** The journals of all runs, newest last, as events. */
  journals(): readonly (readonly Record<string, unknown>[])[] {
    return this.all()
      .filter(([name]) => name.endsWith('journal.ndjson'))
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([name]) => eventsIn(this.read(name)));
  }

  run(args: readonly string[], options: RunOptions = {}): Promise<Result> {
    const { PATH } = process.env;
    const env = { PATH, COLUMNS: String(options.columns ?? 100), ...options.env } as NodeJS.ProcessEnv;
    return new Promise((resolve, reject) => {
      const child = spawn(process.execPath, [PROGRAM, ...args], {
        cwd: path.join(this.path, options.within ?? '.'),
        env,
      });
      if (options.isErrorClosed) child.stderr.destroy();
      let out = '';
      let err = '';
      let all = '';
      child.stdout.on('data', (data: Buffer) => ((out += String(data)), (all += String(data))));
      child.stderr.on('data', (data: Buffer) => ((err += String(data)), (all += String(data))));
      child.on('error', reject);
      // A program that does not end fails its test, and does not outlive it.
      const overdue = setTimeout(() => child.kill('SIGKILL'), 45_000);
      child.on('close', () => clearTimeout(overdue));
      child.on('close', (status) => {
        // What Node itself complains of, such as a leak, nobody is to see.
        const complaint = /^\(node:\d+\).*/m.exec(err);
        if (complaint) reject(new Error(complaint[0]));
        else resolve({ status, out, err, all });
      });
      child.stdin.end(options.input ?? '');
      if (options.until) {
        const { until } = options;
        const waiting = setInterval(
          () => {
            if (!until()) return;
            clearInterval(waiting);
            child.kill(options.signal ?? 'SIGINT');
            if (options.again) setTimeout(() => child.kill('SIGINT'), 100);
          },
          options.signal === 'SIGKILL' ? 1 : 20,
        );
      }
    });
  }

  remove(): void {
    rmSync(this.path, { recursive: true, force: true });
  }
}

/** The events of a journal; a line that is none is an error. */
export function eventsIn(text: string): readonly Record<string, unknown>[] {
  const reader = new LineReader();
  return text
    .trim()
    .split('\n')
    .flatMap((line) => {
      const event = reader.read(line);
      if (event === undefined) throw new Error(`no line of a journal: ${line}`);
      return event === FORM ? [] : [event as unknown as Record<string, unknown>];
    });
}

function readIfThere(file: string): string | undefined {
  try {
    return readFileSync(file, 'latin1');
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'ENOENT') return undefined;
    throw error;
  }
}

/** Folders of one test file, removed when its tests are done. */
export function useFolders(): (files?: Readonly<Record<string, string>>) => Folder {
  const folders: Folder[] = [];
  afterAll(() => folders.forEach((folder) => folder.remove()));
  return (files) => {
    const folder = new Folder(files);
    folders.push(folder);
    return folder;
  };
}

/**
 * Runs the program in a terminal of its own, which `script` of util-linux gives, and answers each question when its
 * words stand on the screen. Gives all that stood there. `react` does what a person does in a browser.
 */
export function inTerminal(
  folder: Folder,
  args: readonly string[],
  answers: readonly (readonly [question: string, answer: string])[],
  react?: (screen: string) => Promise<unknown>,
): Promise<string> {
  const quoted = [process.execPath, PROGRAM, ...args].map((each) => `'${each.replaceAll("'", "'\\''")}'`).join(' ');
  return new Promise((resolve, reject) => {
    const child = spawn('script', ['-qec', `stty cols 100; ${quoted}`, '/dev/null'], {
      cwd: folder.path,
      env: {
        PATH: process.env['PATH'],
        TERM: 'xterm',
        NO_COLOR: '1',
        BROWSER: 'true',
        XDG_CONFIG_HOME: path.join(folder.path, '.user'),
      } as unknown as NodeJS.ProcessEnv,
    });
    let screen = '';
    let asked = 0;
    let hasReacted = false;
    let from = 0;
    const overdue = setTimeout(() => child.kill('SIGKILL'), 45_000);
    child.stdout.on('data', (data: Buffer) => {
      screen += String(data);
      // What a person does elsewhere, once a whole line of an address stands on the screen.
      if (react && !hasReacted && /https?:\/\/[^\n]*\n/.test(screen)) {
        hasReacted = true;
        react(screen).catch(reject);
      }
      const next = answers[asked];
      const at = next ? screen.indexOf(next[0], from) : -1;
      if (!next || at < 0) return;
      asked++;
      from = at + next[0].length;
      child.stdin.write(`${next[1]}\r`);
    });
    child.on('error', reject);
    child.on('close', () => {
      clearTimeout(overdue);
      resolve(screen);
    });
  });
}
