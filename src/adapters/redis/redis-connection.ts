import { randomInt } from 'node:crypto';
import type { Redis } from 'ioredis';
import { BEAT, EXPIRES_MS, HEARTBEAT_MS } from './heartbeat.ts';
import { faultOf, isDurable, readInfo, refuseUnfit } from './redis-faults.ts';

/** Milliseconds that an answer may take. */
const ANSWER_MS = 5000;

/** What is known of a Redis that is fit for limits. */
export type Session = Readonly<{
  /** Who this process is, since it connected. */
  owner: number;
  client: Redis;
  /** Whether what was written is there after a restart. */
  isDurable: boolean;
  /** When Redis started, in milliseconds by its own clock. */
  startedAt: number;
  /** Its time now, as far as can be told without asking: a clock of this process that is set does not move it. */
  nowMs(): number;
}>;

/** A connection that is made when it is needed, and anew when it is lost: with another owner, since heartbeats may have ended. */
export class RedisConnection {
  private session: Promise<Session> | undefined;
  private heart: NodeJS.Timeout | undefined;
  private client: Redis | undefined;

  constructor(
    private readonly url: string,
    /** How it is named in messages: its host and port. */
    readonly place: string,
  ) {}

  /** The session that is open; rejects with `StoreFault`. */
  open(): Promise<Session> {
    return (this.session ??= this.connect().catch((error: unknown) => {
      this.drop();
      throw faultOf(error, this.place);
    }));
  }

  /** Asks something of Redis; rejects with `StoreFault`. */
  async ask<T>(question: (session: Session) => Promise<T>): Promise<T> {
    const session = await this.open();
    try {
      return await question(session);
    } catch (error) {
      throw faultOf(error, this.place);
    }
  }

  private async connect(): Promise<Session> {
    const { Redis } = await import('ioredis');
    const client = new Redis(this.url, {
      lazyConnect: true,
      // What cannot be asked is told at once, and asked again by whoever waits.
      enableOfflineQueue: false,
      maxRetriesPerRequest: 0,
      retryStrategy: () => null,
      connectTimeout: ANSWER_MS,
      commandTimeout: ANSWER_MS,
      enableReadyCheck: false,
      ...(this.url.startsWith('rediss:') ? { tls: {} } : {}),
    });
    this.client = client;
    let failure: Error | undefined;
    client.on('error', (error: Error) => (failure = error));
    client.on('close', () => this.lost(client));
    try {
      await client.connect();
      const info = readInfo(await client.info());
      refuseUnfit(info, this.place);
      const [seconds = 0, micros = 0] = (await client.time()).map(Number);
      const [time, at] = [seconds * 1000 + micros / 1000, performance.now()];
      const owner = randomInt(1, 2 ** 47);
      const key = `{batharon}:process:${owner}`;
      await client.set(key, '1', 'PX', EXPIRES_MS);
      // Others have gone on without this process, which begins anew.
      const beat = async () => (await client.eval(BEAT, 1, key)) === 1 || this.lost(client);
      this.heart = setInterval(() => void beat().catch(() => {}), HEARTBEAT_MS).unref();
      return {
        owner,
        client,
        isDurable: isDurable(info),
        startedAt: time - Number(info['uptime_in_seconds'] ?? 0) * 1000,
        nowMs: () => time + performance.now() - at,
      };
    } catch (error) {
      // A closed connection says nothing; the error before it does.
      throw failure ?? error;
    }
  }

  /** Begins anew when it is next asked. */
  renew(): void {
    this.drop();
  }

  private lost(client: Redis): void {
    if (client === this.client) this.drop();
  }

  private drop(): void {
    clearInterval(this.heart);
    this.session = undefined;
    const { client } = this;
    this.client = undefined;
    client?.disconnect();
  }

  /** Says that this process is no longer there, and closes. */
  close(): void {
    const { session } = this;
    clearInterval(this.heart);
    void session
      ?.then(({ client, owner }) => client.del(`{batharon}:process:${owner}`))
      .catch(() => {})
      .finally(() => this.drop());
  }
}
