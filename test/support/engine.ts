import { readChain } from '../../src/core/chain/chain-file.ts';
import { checkChain } from '../../src/core/chain/check.ts';
import { endpointsOf } from '../../src/core/chain/endpoints.ts';
import { resolveInputs, type Given } from '../../src/core/chain/inputs.ts';
import { readProject } from '../../src/core/chain/project-file.ts';
import { looseSource, type Diagnostic } from '../../src/core/diagnostics/source.ts';
import type { Recorded } from '../../src/core/engine/recorded.ts';
import type { Accept } from '../../src/core/engine/asking.ts';
import { inputHost, type RunHost } from '../../src/core/engine/host.ts';
import { runChain } from '../../src/core/engine/run-chain.ts';
import type { Chain } from '../../src/core/chain/model.ts';
import type { SignInHelp } from '../../src/core/http/auth/help.ts';
import type { HttpRequest } from '../../src/core/http/message.ts';
import type { EventBody, JournalEvent } from '../../src/core/journal/events.ts';
import { noStore } from '../../src/core/journal/no-store.ts';
import { isFact, Recorder } from '../../src/core/journal/recorder.ts';
import { MemoryLimiters } from '../../src/core/pacing/limiter-state.ts';
import { LockedLimiters } from '../../src/core/pacing/locked-limiters.ts';
import { RateLimiters } from '../../src/core/pacing/rate-limiters.ts';
import { Masker } from '../../src/core/masking/masker.ts';
import type { Clock, OpenCallbacks, Transport } from '../../src/core/ports.ts';
import type { Value } from '../../src/core/value/value.ts';
import { testAround, testRunHost } from './hosts.ts';

const PROJECT = `zone: Europe/Lisbon
apis:
  harbour: { url: http://127.0.0.1:1/v1 }
`;

export type Answer = Readonly<{
  status?: number;
  type?: string;
  headers?: readonly (readonly [string, string])[];
  body?: string;
}>;

export type CoreRun = Readonly<{
  exit: number;
  outputs: Readonly<Record<string, Value>>;
  events: readonly JournalEvent[];
  sent: readonly HttpRequest[];
  /** Milliseconds that the clock was moved. */
  waited: number;
  /** What is wrong with the chain; it is run all the same when these are warnings. */
  diagnostics: readonly Diagnostic[];
  /** `outcome name` of each step that ended. */
  ended: readonly string[];
  /** The codes of problems, failed expectations and notes, in order. */
  codes: readonly string[];
}>;

export type CoreOptions = Readonly<{
  answers?: readonly Answer[];
  inputs?: Readonly<Record<string, string>>;
  host?: Partial<RunHost>;
  accept?: Accept;
  secrets?: Readonly<Record<string, string>>;
  /** Chains that others use, by the name of their file. */
  chains?: Readonly<Record<string, Chain>>;
  project?: string;
  openCallbacks?: OpenCallbacks;
  waitForQuota?: boolean;
  /** What a request is answered, in place of a script. */
  answerTo?: (request: HttpRequest) => Answer;
  /** What it goes on from. */
  recorded?: Recorded;
  /** Requests after which it is interrupted: what is in flight then may end. */
  stopAfter?: number;
}>;

/** Nobody who could be asked to sign in. */
const NOBODY: SignInHelp = {
  isPresent: false,
  listen: () => Promise.reject(new Error('Nobody is there')),
  open: () => {},
  showCode: () => {},
};

/** Runs a chain in the core alone: a scripted server (the last answer again and again), a clock that is moved, no disk. */
export async function coreRun(text: string, options: CoreOptions = {}): Promise<CoreRun> {
  const host: RunHost = { ...testRunHost, ...options.host };
  const { project } = readProject({ path: 'batharon.yaml', text: options.project ?? PROJECT });
  const at = { all: undefined, byApi: {} };
  const { chain, diagnostics } = readChain({ path: 'test.chain.yaml', text });
  const around = {
    ...testAround,
    readFile: host.readFile,
    openFile: host.openFile,
    contractOf: host.contractOf,
    accepts: options.accept !== undefined,
  };
  const found = [...diagnostics, ...(chain ? checkChain(chain, project, at, around) : [])];
  if (!chain || found.some(({ level }) => level === 'error')) {
    throw new Error(
      `The chain of this test is wrong: ${found.map(({ code, message }) => `${code} ${message}`).join('; ')}`,
    );
  }
  const given = new Map(
    Object.entries(options.inputs ?? {}).map(([name, each]): [string, Given] => [
      name,
      { text: each, source: looseSource('--input', each) },
    ]),
  );
  const { inputs, diagnostics: wrong } = await resolveInputs(chain, given, {}, inputHost(host, 'inputs'));
  if (wrong.length > 0) throw new Error(wrong.map(({ message }) => message).join('; '));

  let now = 0;
  const clock: Clock = {
    nowMs: () => host.nowMs() + now,
    monotonicMs: () => now,
    sleep: async (milliseconds) => void (now += milliseconds),
  };
  const masker = new Masker();
  for (const [name, secret] of Object.entries(options.secrets ?? {})) masker.add(name, secret);
  const events: JournalEvent[] = [];
  const sent: HttpRequest[] = [];
  const stopping = new AbortController();
  const answerTo = (request: HttpRequest) => {
    if (sent.push(request) === options.stopAfter) stopping.abort();
    const { answers = [] } = options;
    return options.answerTo?.(request) ?? answers[Math.min(sent.length, answers.length) - 1];
  };
  const result = await runChain({
    chain,
    inputs,
    secrets: options.secrets ?? {},
    endpointOf: endpointsOf(project, at),
    recorder: new Recorder(clock, masker, noStore(), [(event) => void (isFact(event) && events.push(event))]),
    limiters: new RateLimiters(new LockedLimiters(new MemoryLimiters(), clock), clock, undefined),
    transport: scripted(answerTo),
    clock,
    signal: new AbortController().signal,
    stopping: stopping.signal,
    recorded: options.recorded,
    host,
    tokens: { withLock: (_name, work) => work({ read: () => undefined, write: () => {} }) },
    help: NOBODY,
    chainAt: (file) => options.chains?.[file.text],
    accept: options.accept,
    settings: { waitForQuota: options.waitForQuota },
    openCallbacks: options.openCallbacks ?? (() => Promise.reject(new Error('in use'))),
    id: 'test',
    userAgent: 'batharon/test',
    maxBodyBytes: 1024 * 1024,
  });
  return {
    exit: result.exit,
    outputs: Object.fromEntries(result.outputs),
    events,
    sent,
    waited: now,
    diagnostics: found,
    ended: events.flatMap((event) => (event.type === 'ended' ? [`${event.outcome} ${event.step}`] : [])),
    codes: events.flatMap(codesOf),
  };
}

function codesOf(event: EventBody): readonly string[] {
  if (event.type === 'note') return [event.code];
  if (event.type !== 'ended') return [];
  const failed = (event.expects ?? []).flatMap(({ passed, code }) => (passed ? [] : [code ?? '']));
  return failed.length > 0
    ? failed
    : [event.problem, ...(event.problems ?? [])].flatMap((problem) => (problem ? [problem.code] : []));
}

function scripted(answerTo: (request: HttpRequest) => Answer | undefined): Transport {
  return {
    exchange: async (request) => {
      const answer = answerTo(request);
      if (!answer) {
        const message = 'Nothing listens there';
        return { broken: { code: 'no-connection', cause: 'ECONNREFUSED', phase: 'connect', reached: 'no', message } };
      }
      const body = new TextEncoder().encode(answer.body ?? '');
      const timings = { blocked: 0, dns: 0, connect: 0, tls: 0, send: 0, wait: 1, receive: 0 };
      return {
        response: {
          status: answer.status ?? 200,
          reason: '',
          http: '1.1',
          headers: [['Content-Type', answer.type ?? 'application/json'], ...(answer.headers ?? [])],
          body,
          encodedSize: body.length,
          reused: false,
          timings,
        },
      };
    },
    close: async () => {},
  };
}

/** Lines of a step, put under `steps:` of a chain of the harbour. */
export function chainOf(steps: string, above = ''): string {
  return `${above}api: harbour\nsteps:\n${steps.replace(/^(?=.)/gm, '  ')}\n`;
}
