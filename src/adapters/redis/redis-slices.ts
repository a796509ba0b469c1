import { createHash } from 'node:crypto';
import { hostname } from 'node:os';
import { RedisConnection } from './redis-connection.ts';

/** What has become of a slice. */
type SliceState = 'free' | 'under way' | 'done' | 'failed';

/** One slice of a divided run. */
export type SliceNow = Readonly<{
  part: number;
  state: SliceState;
  /** The record that has it, as a hash of its place and id. */
  record: number | undefined;
  /** The machine and project that it is in, as a hash. */
  machine: number | undefined;
  /** When it was taken or ended, in milliseconds since 1970. */
  at: number | undefined;
}>;

/** A run that is divided among machines. */
export type DivisionNow = Readonly<{ id: string; of: number; since: number; slices: readonly SliceNow[] }>;

const STATES: readonly SliceState[] = ['free', 'under way', 'done', 'failed'];
/** How long after its last change a division is known. */
const KEPT_MS = 31 * 24 * 3_600_000;

const CLOCK = `
redis.replicate_commands()
local clock = redis.call('TIME')
local now = clock[1] * 1000 + math.floor(clock[2] / 1000)
local function keep(key) redis.call('PEXPIRE', key, ${KEPT_MS}) end
`;

/** Takes the next free slice: 0 where none is left, -1 where the division has another number of slices. */
const TAKE = `${CLOCK}
local of = tonumber(ARGV[1])
if redis.call('HSETNX', KEYS[1], 'of', of) == 1 then redis.call('ZADD', KEYS[2], now, ARGV[4]) end
if tonumber(redis.call('HGET', KEYS[1], 'of')) ~= of then return -1 end
for part = 1, of do
  if redis.call('HEXISTS', KEYS[1], part) == 0 then
    redis.call('HSET', KEYS[1], part, '1 ' .. ARGV[2] .. ' ' .. ARGV[3] .. ' ' .. string.format('%d', now))
    keep(KEYS[1])
    keep(KEYS[2])
    return part
  end
end
return 0
`;

/** Takes a slice over from a record that never began. */
const TAKE_OVER = `${CLOCK}
local text = redis.call('HGET', KEYS[1], ARGV[1])
if not text or string.match(text, '^1 (%d+)') ~= ARGV[2] then return 0 end
redis.call('HSET', KEYS[1], ARGV[1], '1 ' .. ARGV[3] .. ' ' .. ARGV[4] .. ' ' .. string.format('%d', now))
keep(KEYS[1])
return 1
`;

/** Says what has become of a slice, by the record that has it. */
const MARK = `${CLOCK}
local text = redis.call('HGET', KEYS[1], ARGV[1])
if not text or string.match(text, '^%d+ (%d+)') ~= ARGV[3] then return 0 end
redis.call('HSET', KEYS[1], ARGV[1], ARGV[2] .. ' ' .. ARGV[3] .. ' ' .. ARGV[4] .. ' ' .. string.format('%d', now))
keep(KEYS[1])
return 1
`;

/** A slice has come to a step: 1 where it is the last of all, which it stays. */
const ARRIVE = `${CLOCK}
local step, part = ARGV[1], ARGV[2]
local last = redis.call('HGET', KEYS[1], 'last ' .. step)
if last then return last == part and 1 or 0 end
redis.call('SADD', KEYS[2], part)
keep(KEYS[2])
if redis.call('SCARD', KEYS[2]) < tonumber(redis.call('HGET', KEYS[1], 'of') or 0) then return 0 end
redis.call('HSET', KEYS[1], 'last ' .. step, part)
return 1
`;

/** Slices of divided runs, as all machines that name one Redis know them. Only numbers and hashes are told to it. */
export class RedisSlices {
  private readonly connection: RedisConnection;

  constructor(
    url: string,
    place: string,
    /** The record folder of the project. */
    folder: string,
  ) {
    this.connection = new RedisConnection(url, place);
    this.machine = numberOf(`${hostname()} ${folder}`);
  }

  /** This machine and project, as a hash. */
  readonly machine: number;

  /** Takes the next free slice for a record; nothing where none is left. `others`: it is divided into another number. */
  take(division: string, chain: string, of: number, record: string): Promise<number | 'others' | undefined> {
    return this.connection.ask(async ({ client }) => {
      const args = [String(of), String(numberOf(record)), String(this.machine), division];
      const taken = Number(await client.eval(TAKE, 2, keyOf(division), chainKey(chain), ...args));
      return taken < 0 ? 'others' : taken === 0 ? undefined : taken;
    });
  }

  /** Takes over a slice that a record of this machine had and never began; nothing where there is none. */
  async takeOver(
    division: string,
    chain: string,
    neverBegun: readonly string[],
    record: string,
  ): Promise<number | undefined> {
    if (neverBegun.length === 0) return undefined;
    const found = (await this.divisions(chain)).find(({ id }) => id === division);
    for (const { part, state, machine, record: has } of found?.slices ?? []) {
      const run = neverBegun.find((each) => numberOf(each) === has);
      if (state !== 'under way' || machine !== this.machine || run === undefined) continue;
      const args = [String(part), String(has), String(numberOf(record)), String(this.machine)];
      if (
        await this.connection.ask(
          async ({ client }) => (await client.eval(TAKE_OVER, 1, keyOf(division), ...args)) === 1,
        )
      )
        return part;
    }
    return undefined;
  }

  /** Says how a slice ended, or that it is free again; false where another record has it. */
  mark(division: string, part: number, record: string, state: Exclude<SliceState, 'free'>): Promise<boolean> {
    return this.connection.ask(async ({ client }) => {
      const code = String(STATES.indexOf(state));
      const args = [String(part), code, String(numberOf(record)), String(this.machine)];
      return (await client.eval(MARK, 1, keyOf(division), ...args)) === 1;
    });
  }

  /** Gives a slice up: the next machine takes it. */
  async release(division: string, part: number): Promise<void> {
    await this.connection.ask(({ client }) => client.hdel(keyOf(division), String(part)));
  }

  /** Whether a slice is the last to come to a step. */
  isLast(division: string, part: number, step: string): Promise<boolean> {
    return this.connection.ask(async ({ client }) => {
      const key = hashOf(step);
      const keys = [keyOf(division), `${keyOf(division)}:${key}`];
      return (await client.eval(ARRIVE, 2, ...keys, key, String(part))) === 1;
    });
  }

  /** The divisions of a chain, the newest first. */
  divisions(chain: string): Promise<readonly DivisionNow[]> {
    return this.connection.ask(async ({ client }) => {
      const known = await client.zrevrange(chainKey(chain), 0, -1, 'WITHSCORES');
      const found: DivisionNow[] = [];
      for (let i = 0; i < known.length; i += 2) {
        const id = known[i]!;
        const fields = await client.hgetall(keyOf(id));
        const of = Number(fields['of'] ?? 0);
        if (of === 0) await client.zrem(chainKey(chain), id);
        else found.push({ id, of, since: Number(known[i + 1]), slices: slicesIn(fields, of) });
      }
      return found;
    });
  }

  /** Forgets a division: what it did is done anew when the chain is divided again. */
  async forget(division: string, chain: string): Promise<void> {
    await this.connection.ask(async ({ client }) => {
      await client.del(keyOf(division));
      await client.zrem(chainKey(chain), division);
    });
  }

  /** The number by which a record is known. */
  recordOf(id: string): number {
    return numberOf(id);
  }

  close(): void {
    this.connection.close();
  }
}

function slicesIn(fields: Readonly<Record<string, string>>, of: number): readonly SliceNow[] {
  return Array.from({ length: of }, (_, i): SliceNow => {
    const [state = 0, record, machine, at] = fields[String(i + 1)]?.split(' ').map(Number) ?? [];
    return { part: i + 1, state: STATES[state] ?? 'free', record, machine, at };
  });
}

const hashOf = (text: string): string => createHash('sha256').update(text).digest('hex').slice(0, 24);
const numberOf = (text: string): number => parseInt(hashOf(text).slice(0, 11), 16);
const keyOf = (division: string): string => `{batharon}:division:${division}`;
const chainKey = (chain: string): string => `{batharon}:divisions:${hashOf(chain)}`;
