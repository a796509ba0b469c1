import type { BodyRef } from '../core/journal/records.ts';
import { hash, randomBytes } from 'node:crypto';
import {
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  truncateSync,
  unlinkSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import path from 'node:path';
import { RunUnderWay } from '../core/journal/run-under-way.ts';
import type { JournalStore } from '../core/ports.ts';
import type { Appender, MaskedOutput } from './masked-output.ts';
import { lastLine } from './last-line.ts';
import { WaitingLines } from './waiting-lines.ts';
import { identityIn, stateOfProcess, thisProcess } from './process-identity.ts';

/** Bytes up to which a body stands in its event, and from which it gets a file of its own; bytes of one pack. */
const MAX_INLINE = 2 * 1024;
const MIN_OWN_FILE = 8 * 1024 * 1024;
const MAX_PACK = 256 * 1024 * 1024;
/** Bodies that are remembered so that an equal one is stored once. */
const MAX_REMEMBERED = 10_000;
const SYNC_EVERY_MS = 200;

export function runFolder(recordFolder: string, run: string): string {
  return path.join(recordFolder, 'runs', run);
}

/** Makes a run's folder and the files in it. `recordFolder` is `.batharon`, which is ignored by git. */
export function createJournalStore(recordFolder: string, run: string, exit: MaskedOutput): JournalStore {
  const folder = runFolder(recordFolder, run);
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  const ignore = path.join(recordFolder, '.gitignore');
  if (!existsSync(ignore)) exit.writeFile(ignore, '*\n');
  return openStore(folder, exit, 0);
}

/** Opens the journal of a run that is resumed: a torn last line is cut off, bodies go to a new pack. Throws `RunUnderWay`. */
export function reopenJournalStore(recordFolder: string, run: string, exit: MaskedOutput): JournalStore {
  const folder = runFolder(recordFolder, run);
  const owner = runOwner(folder);
  if (owner !== undefined) throw new RunUnderWay(`Process ${owner} is running the run ${run}`);
  const file = path.join(folder, 'journal.ndjson');
  const complete = lastLine(file).end;
  if (complete < statSync(file).size) truncateSync(file, complete);
  const packs = readdirSync(folder).flatMap((name) => Number(/^bodies-(\d+)\.pack$/.exec(name)?.[1] ?? []));
  rmSync(path.join(folder, 'run.lock'), { force: true });
  return openStore(folder, exit, Math.max(0, ...packs));
}

/** Says that a run is about to be recorded by this process: what it takes before that is given back when nothing comes of it. */
export function announceRun(recordFolder: string, run: string): void {
  const folder = runFolder(recordFolder, run);
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  writeFileSync(path.join(folder, ANNOUNCED), JSON.stringify(thisProcess()), { mode: 0o600 });
}

const ANNOUNCED = 'announced.json';

/** Runs that were announced by a process that is gone, and never began: nothing was sent in them. */
export function runsNeverBegun(recordFolder: string): readonly string[] {
  const folder = path.join(recordFolder, 'runs');
  return (existsSync(folder) ? readdirSync(folder) : []).filter((run) => {
    const announced = path.join(folder, run, ANNOUNCED);
    const journal = path.join(folder, run, 'journal.ndjson');
    if (!existsSync(announced) || (existsSync(journal) && lastLine(journal).end > 0)) return false;
    return stateOfProcess(identityIn(readFileSync(announced, 'utf8'))) === 'gone';
  });
}

/** Time after which a run whose process cannot be seen, and that did not renew its lock, is free. */
const UNSEEN_MS = 60_000;
const RENEW_EVERY_MS = 1000;

/** The process that writes to a run at the moment, as far as can be known. */
export function runOwner(folder: string): number | undefined {
  const lock = path.join(folder, 'run.lock');
  try {
    const identity = identityIn(readFileSync(lock, 'utf8'));
    const state = stateOfProcess(identity);
    const isQuiet = Date.now() - statSync(lock).mtimeMs > UNSEEN_MS;
    const { pid } = identity;
    // One that says nothing of a process is damaged, and nobody's.
    if (pid === undefined || state === 'gone' || (state === 'unseen' && isQuiet)) return undefined;
    return state === 'running' && pid === process.pid ? undefined : pid;
  } catch {
    return undefined;
  }
}

function openStore(folder: string, exit: MaskedOutput, packs: number): JournalStore {
  const lock = new RunLock(path.join(folder, 'run.lock'));
  const journal = exit.appender(path.join(folder, 'journal.ndjson'));
  const bodies = new BodyFiles(folder, exit, packs);
  let unsynced = false;
  const lines = new WaitingLines((text) => {
    journal.write(text);
    unsynced = true;
  });
  const sync = async () => {
    if (!lock.isOurs()) throw new RunUnderWay('Another process has taken this run over');
    lines.flush();
    unsynced = false;
    await bodies.sync();
    await journal.sync();
  };
  const background = setInterval(() => {
    if (unsynced) sync().catch((error: unknown) => lines.fail(error));
  }, SYNC_EVERY_MS);
  background.unref();
  return {
    append: (text, mayWait) => lines.append(text, mayWait),
    storeBody: (content, type) => lines.guarded(() => bodies.store(content, type)),
    sync,
    close: async () => {
      clearInterval(background);
      try {
        if (lock.isOurs()) await sync();
      } finally {
        journal.close();
        bodies.close();
        lock.release();
      }
    },
  };
}

/** The lock of a run, renewed while it is held. Whoever took it meanwhile writes to the run, and nothing more is sent for it here. */
class RunLock {
  private readonly token = JSON.stringify({ ...thisProcess(), token: randomBytes(9).toString('hex') });
  private readonly renewing: NodeJS.Timeout;

  constructor(private readonly file: string) {
    writeFileSync(file, this.token, { flag: 'wx', mode: 0o600 });
    this.renewing = setInterval(() => {
      if (this.isOurs()) utimesSync(file, new Date(), new Date());
    }, RENEW_EVERY_MS).unref();
  }

  isOurs(): boolean {
    try {
      return readFileSync(this.file, 'utf8') === this.token;
    } catch {
      return false;
    }
  }

  release(): void {
    clearInterval(this.renewing);
    if (this.isOurs()) unlinkSync(this.file);
  }
}

/** Bodies by size: in the event, in a pack, in a file of their own; equal ones once. */
class BodyFiles {
  private pack: Appender | undefined;
  private packSize = 0;
  private readonly known = new Map<string, BodyRef>();

  constructor(
    private readonly folder: string,
    private readonly exit: MaskedOutput,
    /** The number of the last pack. */
    private packNumber: number,
  ) {}

  store(content: string | Uint8Array, type: string | undefined): BodyRef {
    const size = typeof content === 'string' ? Buffer.byteLength(content) : content.length;
    if (typeof content === 'string' && size <= MAX_INLINE)
      return type ? { size, type, text: content } : { size, text: content };
    const sha256 = hash('sha256', content);
    const head = { sha256, size, ...(type ? { type } : {}) };
    const known = this.known.get(sha256);
    if (known) return known;
    const data = typeof content === 'string' ? Buffer.from(content) : content;
    const ref: BodyRef =
      size > MIN_OWN_FILE ? { ...head, file: this.ownFile(sha256, data) } : { ...head, at: this.packed(data) };
    if (this.known.size >= MAX_REMEMBERED) this.known.delete(this.known.keys().next().value!);
    this.known.set(sha256, ref);
    return ref;
  }

  private ownFile(sha256: string, data: Uint8Array): string {
    const name = `body-${sha256.slice(0, 16)}`;
    this.exit.writeFile(path.join(this.folder, name), data);
    return name;
  }

  private packed(data: Uint8Array): [number, number, number] {
    if (!this.pack || this.packSize + data.length > MAX_PACK) {
      this.pack?.close();
      this.packNumber++;
      this.packSize = 0;
      this.pack = this.exit.appender(path.join(this.folder, packName(this.packNumber)));
    }
    const offset = this.packSize;
    this.pack.write(data);
    this.packSize += data.length;
    return [this.packNumber, offset, data.length];
  }

  async sync(): Promise<void> {
    await this.pack?.sync();
  }

  close(): void {
    this.pack?.close();
  }
}

export function packName(number: number): string {
  return `bodies-${String(number).padStart(4, '0')}.pack`;
}

const LETTERS = '0123456789abcdefghjkmnpqrstvwxyz';

/** An id that says when a run began: `0523-1412-7k`. `random` gives numbers from 0 up to but not including 1. */
export function newRunId(recordFolder: string, now: Date, random: () => number, count = 2): string {
  const two = (value: number) => String(value).padStart(2, '0');
  const stamp = `${two(now.getMonth() + 1)}${two(now.getDate())}-${two(now.getHours())}${two(now.getMinutes())}`;
  for (;;) {
    const letters = Array.from({ length: count }, () => LETTERS[Math.floor(random() * LETTERS.length)]).join('');
    const id = `${stamp}-${letters}`;
    if (!isFolder(runFolder(recordFolder, id))) return id;
  }
}

function isFolder(folder: string): boolean {
  return statSync(folder, { throwIfNoEntry: false })?.isDirectory() ?? false;
}
