import { readFileSync, readlinkSync } from 'node:fs';
import { hostname } from 'node:os';

/** Which process it is, so that another one with the same number is not taken for it. */
type ProcessIdentity = Readonly<{
  pid: number;
  host: string;
  /** The start of the machine, and the numbers of processes of which this is one; empty where neither is known. */
  boot: string;
  space: string;
  /** When the process started, in the machine's own count; empty where that is not known. */
  started: string;
}>;

const quietly = (read: () => string): string => {
  try {
    return read().trim();
  } catch {
    return '';
  }
};

let own: ProcessIdentity | undefined;

/** This process. */
export function thisProcess(): ProcessIdentity {
  return (own ??= {
    pid: process.pid,
    host: hostname(),
    boot: bootOf(),
    space: spaceOf(),
    started: stateOf(process.pid)?.started ?? '',
  });
}

function bootOf(): string {
  return quietly(() => readFileSync('/proc/sys/kernel/random/boot_id', 'utf8'));
}

function spaceOf(): string {
  return quietly(() => readlinkSync('/proc/self/ns/pid'));
}

/** What the system says of a process: `proc_pid_stat(5)`, whose second field is a name in parentheses that may hold anything. */
function stateOf(pid: number): Readonly<{ state: string; started: string }> | undefined {
  const text = quietly(() => readFileSync(`/proc/${pid}/stat`, 'utf8'));
  const fields = text.slice(text.lastIndexOf(')') + 2).split(' ');
  return text === '' ? undefined : { state: fields[0]!, started: fields[19] ?? '' };
}

/** Whether a process is at work, gone, or of another machine or container, where it cannot be seen. */
export function stateOfProcess(identity: Partial<ProcessIdentity>): 'running' | 'gone' | 'unseen' {
  const here = thisProcess();
  const { pid, host, boot = here.boot, space = here.space } = identity;
  if (pid === undefined || host !== here.host || space !== here.space) return 'unseen';
  if (boot !== here.boot) return 'gone';
  return (here.started === '' ? isThere(pid) : isTheSame(pid, identity)) ? 'running' : 'gone';
}

/** Whether a process is there and began when it is said to have; the system may give a number anew. */
function isTheSame(pid: number, { started = '' }: Partial<ProcessIdentity>): boolean {
  const state = stateOf(pid);
  // A zombie has ended, and only waits for its parent to ask after it.
  if (!state || state.state === 'Z' || state.state === 'X') return false;
  return started === '' || started === state.started;
}

function isThere(pid: number): boolean {
  try {
    process.kill(pid, 0);
    return true;
  } catch (error) {
    return (error as NodeJS.ErrnoException).code === 'EPERM';
  }
}

/** What a lock says of its process; nothing of one that is empty or damaged. */
export function identityIn(text: string): Partial<ProcessIdentity> {
  try {
    const said: unknown = JSON.parse(text);
    return typeof said === 'object' && said !== null ? said : {};
  } catch {
    return {};
  }
}
