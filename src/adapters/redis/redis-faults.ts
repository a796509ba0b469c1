import { StoreFault } from '../../core/pacing/limiter-store.ts';

/** What Redis answers with, by the first word of its error (or of the reason in it), and what to do about it. */
const ANSWERS: Readonly<Record<string, readonly [what: string, mayPass: boolean]>> = {
  WRONGPASS: ['refuses the user name or password', false],
  NOAUTH: ['asks for a password, and its URL has none', false],
  NOPERM: ['does not permit its user what limits need: scripts, and keys that begin with {batharon}', false],
  OOM: ['is out of memory', true],
  READONLY: ['can only be read: it is a replica', true],
  MISCONF: ['cannot write to its disk', true],
  LOADING: ['is still starting', true],
  BUSY: ['is busy with another script', true],
  MASTERDOWN: ['has lost the server that it follows', true],
  CLUSTERDOWN: ['is a cluster that is down', true],
};

const NOT_TRUSTED = /CERT|SELF_SIGNED|UNABLE_TO_VERIFY|ALTNAME/;

/** A connection that is not there, or is no longer: the system's codes, and the words of the client. */
const NOT_THERE = /^(?!ERR_)E[A-Z]+$|closed|isn't writeable|max retries|ETIMEDOUT/;

/** What is wrong with a Redis, in words that name it and not what was sent to it; any other error is that of a program. */
export function faultOf(error: unknown, place: string): unknown {
  if (error instanceof StoreFault) return error;
  const { code = '', message = '' } = error as NodeJS.ErrnoException;
  const word = Object.keys(ANSWERS).find((each) => new RegExp(`(^|\\s|-)${each}\\b`).test(message));
  if (word !== undefined) {
    const [what, mayPass] = ANSWERS[word]!;
    return new StoreFault(`Redis at ${place} ${what}`, mayPass);
  }
  if (NOT_TRUSTED.test(code)) {
    const advice = 'name its authority in NODE_EXTRA_CA_CERTS';
    return new StoreFault(`The certificate of Redis at ${place} is not trusted (${code}): ${advice}`, false);
  }
  if (message === 'Command timed out') return new StoreFault(`Redis at ${place} does not answer`, true);
  if ((error as Error).name === 'ReplyError')
    return new StoreFault(`Redis at ${place} answers ${message.split(' ')[0]}`, false);
  if (!NOT_THERE.test(code) && !NOT_THERE.test(message)) return error;
  return new StoreFault(`Redis at ${place} cannot be reached${code === '' ? '' : ` (${code})`}`, true);
}

/** Members of `INFO`. */
type RedisInfo = Readonly<Record<string, string>>;

export function readInfo(text: string): RedisInfo {
  return Object.fromEntries(text.split(/\r?\n/).flatMap((line) => [line.split(/:(.*)/s).slice(0, 2)] as never[]));
}

/** Refuses a Redis in which limits would not be kept. Throws `StoreFault`. */
export function refuseUnfit(info: RedisInfo, place: string): void {
  const refuse = (what: string, mayPass = false): never => {
    throw new StoreFault(`Redis at ${place} ${what}`, mayPass);
  };
  const [major = 0, minor = 0] = (info['redis_version'] ?? '').split('.').map(Number);
  if (major < 6 || (major === 6 && minor < 2)) refuse(`is version ${info['redis_version']}; 6.2 or later is needed`);
  if (info['role'] === 'slave') refuse('is a replica: name the server that it follows', true);
  const policy = info['maxmemory_policy'] ?? 'noeviction';
  if (policy !== 'noeviction' && info['maxmemory'] !== '0')
    refuse(`may evict what it keeps (maxmemory-policy ${policy}): set maxmemory-policy noeviction`);
}

/** Whether what was written is there after a restart. */
export function isDurable(info: RedisInfo): boolean {
  return info['aof_enabled'] === '1';
}
