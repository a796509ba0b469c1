import { createHash } from 'node:crypto';
import { closeSync, existsSync, mkdirSync, openSync, readdirSync, readFileSync, readSync, writeSync } from 'node:fs';
import { hostname } from 'node:os';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import {
  emptyHead,
  type LimiterHead,
  type LimiterState,
  type LockedStore,
  type Slot,
  type StoredLimiter,
} from '../core/pacing/limiter-state.ts';
import { FileLock } from './file-lock.ts';
import { stateOfProcess } from './process-identity.ts';

/** Two places for the head, written in turn, so that one can always be read; and the slots behind them, in a ring. */
const HEAD_BYTES = 2048;
const SLOT_BYTES = 16;
const VERSION_DIGITS = 15;
const SLOTS_AT = 2 * HEAD_BYTES;
/** Who takes slots on which machine: the low part is the process, the high part says which machine. */
const HOST_UNIT = 2 ** 24;
const HOST = createHash('sha256').update(hostname()).digest().readUInt16BE(0);

/** The rate limiters of a project: a file each, shared by all processes, each change of which is made under a lock. */
export function limiterFiles(folder: string): LockedStore {
  const owner = HOST * HOST_UNIT + process.pid;
  const open = new Map<string, LimiterFile>();
  const fileOf = (name: string) =>
    path.join(folder, `${name.replace(/[^A-Za-z0-9_-]+/g, '-')}-${digest(name)}.limiter`);
  const isAlive = (one: number): boolean => {
    if (one === owner) return true;
    // Of a process on another machine nothing is known; its lock would be stale before long, and so is its slot.
    if (Math.floor(one / HOST_UNIT) !== HOST) return false;
    return stateOfProcess({ pid: one % HOST_UNIT, host: hostname() }) === 'running';
  };
  return {
    owner,
    isAlive,
    names: () => namesIn(folder),
    has: (name) => existsSync(fileOf(name)),
    open: (name, slots, windowMs) => {
      let limiter = open.get(name);
      if (!limiter) open.set(name, (limiter = new LimiterFile(fileOf(name), name, slots, windowMs)));
      return limiter;
    },
    close: () => {
      for (const limiter of open.values()) limiter.close();
      open.clear();
    },
    withLock: async (limiters, work) => {
      const files = limiters as readonly LimiterFile[];
      const locked: LimiterFile[] = [];
      try {
        for (const limiter of files) {
          await limiter.lock();
          locked.push(limiter);
        }
        const states = files.map((limiter) => limiter.state());
        const result = work(states);
        files.forEach((limiter, i) => limiter.keep(states[i]!.head));
        return result;
      } finally {
        for (const limiter of locked.reverse()) limiter.unlock();
      }
    },
  };
}

function digest(name: string): string {
  return createHash('sha256').update(name).digest('hex').slice(0, 8);
}

type StoredHead = LimiterHead & { version: number; slots: number; name?: string };

/** The names of the rate limiters in a folder, as far as they can be read. */
function namesIn(folder: string): readonly string[] {
  if (!existsSync(folder)) return [];
  return readdirSync(folder)
    .filter((file) => file.endsWith('.limiter'))
    .sort()
    .flatMap((file) => newestHead(readFileSync(path.join(folder, file)))?.name ?? []);
}

function newestHead(heads: Buffer): StoredHead | undefined {
  const texts = [0, 1].map((i) => heads.toString('latin1', i * HEAD_BYTES, (i + 1) * HEAD_BYTES));
  // Each begins with its version, of one width: the later of two texts is the newer head.
  const [newer = '', older = ''] = texts[0]! > texts[1]! ? texts : texts.reverse();
  return parsed(newer) ?? parsed(older);
}

class LimiterFile implements StoredLimiter {
  private readonly descriptor: number;
  private readonly fileLock: FileLock;
  private readonly bytes = Buffer.alloc(SLOT_BYTES);
  private readonly heads = Buffer.alloc(2 * HEAD_BYTES);
  private version = 0;
  /** Slots of the ring as it is in the file. */
  private ring: number;

  constructor(
    file: string,
    private readonly name: string,
    slots: number,
    /** The longest window: for so long it is taken as full when nothing of it can be read. */
    private readonly windowMs: number,
  ) {
    mkdirSync(path.dirname(file), { recursive: true, mode: 0o700 });
    this.fileLock = new FileLock(file);
    this.ring = slots;
    const isNew = !existsSync(file);
    this.descriptor = openSync(file, isNew ? 'a+' : 'r+', 0o600);
    if (!isNew) return;
    // Opened for appending only where it has to be made, so that two that make it do not empty each other's.
    closeSync(this.descriptor);
    this.descriptor = openSync(file, 'r+');
  }

  look(): LimiterState {
    return this.state();
  }

  state(): LimiterState {
    const head = this.readHead();
    return { head, slot: (number) => this.readSlot(head, number) };
  }

  put(number: number, slot: Slot): void {
    this.writeSlot(number, slot);
  }

  private readHead(): LimiterHead {
    const read = readSync(this.descriptor, this.heads, 0, 2 * HEAD_BYTES, 0);
    if (read === 0) return emptyHead();
    const newest = newestHead(this.heads);
    // Nothing can be read: whatever was sent, a whole window of it may just have been.
    if (!newest) return { ...emptyHead(), closedUntil: Date.now() + this.windowMs };
    this.version = newest.version;
    const { version: _version, name: _name, slots, ...head } = newest;
    if (slots !== this.ring) this.resize(head, slots);
    return head;
  }

  /** Another rate limit needs another ring: the slots that both have are put where they belong in it. */
  private resize(head: LimiterHead, before: number): void {
    const wanted = this.ring;
    if (wanted < before) {
      this.ring = before;
      return;
    }
    this.ring = before;
    const kept: [number, Slot][] = [];
    for (let number = Math.max(0, head.taken - before); number < head.taken; number++) {
      const slot = this.readSlot(head, number);
      if (slot) kept.push([number, slot]);
    }
    this.ring = wanted;
    for (const [number, slot] of kept) this.writeSlot(number, slot);
  }

  keep(head: LimiterHead): void {
    const stored: StoredHead = { ...head, version: ++this.version, slots: this.ring, name: this.name };
    const text = `${String(this.version).padStart(VERSION_DIGITS, '0')}${JSON.stringify(stored)}\n`;
    writeSync(this.descriptor, text, (this.version % 2) * HEAD_BYTES, 'latin1');
  }

  private readSlot({ taken }: LimiterHead, number: number): Slot | undefined {
    if (number < 0 || number < taken - this.ring || number >= taken) return undefined;
    const read = readSync(this.descriptor, this.bytes, 0, SLOT_BYTES, SLOTS_AT + (number % this.ring) * SLOT_BYTES);
    if (read < SLOT_BYTES) return undefined;
    const owner = this.bytes.readDoubleLE(8);
    const at = this.bytes.readDoubleLE(0);
    return owner === 0 ? { at } : { at, owner };
  }

  private writeSlot(number: number, { at, owner = 0 }: Slot): void {
    this.bytes.writeDoubleLE(at, 0);
    this.bytes.writeDoubleLE(owner, 8);
    writeSync(this.descriptor, this.bytes, 0, SLOT_BYTES, SLOTS_AT + (number % this.ring) * SLOT_BYTES);
  }

  async lock(): Promise<void> {
    for (let tries = 1; !this.fileLock.tryLock(); tries++) {
      if (tries % 20 === 0) this.fileLock.breakStale();
      // Whoever has it is done with it in microseconds.
      if (tries > 3) await sleep(1);
    }
  }

  unlock(): void {
    this.fileLock.unlock();
  }

  close(): void {
    closeSync(this.descriptor);
    this.fileLock.close();
  }
}

/** A head, up to the end of its line; nothing when it cannot be read. */
function parsed(text: string): StoredHead | undefined {
  try {
    return JSON.parse(text.slice(VERSION_DIGITS, text.indexOf('\n'))) as StoredHead;
  } catch {
    return undefined;
  }
}
