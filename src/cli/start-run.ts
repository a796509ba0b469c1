import { hash } from 'node:crypto';
import path from 'node:path';
import { limiterFiles } from '../adapters/limiter-files.ts';
import { memoryOf } from '../adapters/memory.ts';
import { systemClock } from '../adapters/clock.ts';
import { expectMuchWork } from '../adapters/compiler.ts';
import { createJournalStore, newRunId, reopenJournalStore } from '../adapters/journal-files.ts';
import type { Chain } from '../core/chain/model.ts';
import { secretOwners } from '../core/chain/secret-owners.ts';
import { signsInTo } from '../core/chain/uses.ts';
import { endpointsOf, type EndpointOf } from '../core/chain/endpoints.ts';
import { withoutAuth, type Endpoint } from '../core/http/endpoint.ts';
import type { At } from '../core/chain/project-file.ts';
import type { SourceFile } from '../core/diagnostics/source.ts';
import type { RunSettings } from '../core/engine/settings.ts';
import type { Run, StepFrame } from '../core/engine/frame.ts';
import { signInHelp } from '../adapters/sign-in-help.ts';
import {
  openRun,
  DEFAULT_MAX_BODY_BYTES,
  runChain,
  type RunRequest,
  type RunResult,
} from '../core/engine/run-chain.ts';
import { shownUrl } from '../core/http/build-request.ts';
import type { Accept } from '../core/engine/asking.ts';
import type { AskChange } from '../core/engine/asking.ts';
import type { RunHost } from '../core/engine/host.ts';
import type { Clock, JournalStore } from '../core/ports.ts';
import { noStore } from '../core/journal/no-store.ts';
import type { EventBody, JournalEvent, Json, Stored, ListenerEvent } from '../core/journal/events.ts';
import { MemoryLimiters } from '../core/pacing/limiter-state.ts';
import { RateLimiters } from '../core/pacing/rate-limiters.ts';
import { Recorder, type Listener } from '../core/journal/recorder.ts';
import { fromStored } from '../core/journal/stored.ts';
import type { RecordedRun } from '../adapters/journal-reader.ts';
import { freshRecords } from '../adapters/fresh-records.ts';
import type { Recorded } from '../core/engine/recorded.ts';
import type { Maybe, ObjectValue } from '../core/value/value.ts';
import { tokenStore } from '../adapters/token-store.ts';
import type { SignInHelp } from '../core/http/auth/help.ts';
import type { UsedChains } from './used-chains.ts';
import { endpointsUsed } from './endpoints.ts';
import { confirmTrust } from './trust.ts';
import type { Io } from './io.ts';
import { CommandError } from './command-error.ts';
import { USER_AGENT, VERSION } from './version.ts';
import type { Workspace } from './workspace.ts';

export type RunPlan = Readonly<{
  /** The id of the run, where it has one already. */
  run?: string;
  workspace: Workspace;
  chain: Chain;
  inputs: ReadonlyMap<string, Maybe>;
  /** The chains that it uses. */
  used: UsedChains;
  /** A person who may be asked to sign in. */
  help: SignInHelp;
  at: At;
  secrets: Readonly<Record<string, string>>;
  options: Json;
  /** `send`, whose record is no run of a chain; choices, whose events become part of a run that is to come. */
  purpose: 'run' | 'send' | 'choices';
  /** What was done before the run began, for the first thing of its record. */
  before?: readonly JournalEvent[];
  /** Exchanges that have a number already. */
  exchanges?: number;
  ask?: AskChange | undefined;
  settings?: RunSettings;
  /** What it goes on from: the very run when its journal is continued. */
  recorded?: Recorded | undefined;
  goesOn?: RecordedRun | undefined;
  listeners: readonly Listener[];
  host: RunHost;
  /** Where `--now` set the clock. */
  now: string | null;
  accept?: Accept | undefined;
}>;

/** Time that requests in flight are given after the first wish to end. */
const GRACE_MS = 5000;

/** Runs a chain that was found free of errors, recording as it goes. */
export function startRun(plan: RunPlan, io: Io): Promise<RunResult & Readonly<{ run: string }>> {
  const { workspace } = plan;
  return withRecord(plan, io, async (request, endpoints) => {
    const memory = memoryFor(plan, endpoints, io);
    const remembered = request.remembered ?? {};
    const result = await runChain({ ...request, fresh: freshRecords(workspace.recordFolder, request.id) });
    if (result.remembers.size > 0 && !memory.write(remembered, result.remembers)) {
      io.exit.err('warning over-limit: more than 1 MiB would have been remembered, so nothing was\n');
    }
    return { ...result, run: request.id };
  });
}

function memoryFor({ workspace, chain }: RunPlan, endpoints: readonly Endpoint[], { exit }: Io) {
  const deployments = endpoints.map(({ api, deployment }) => `${api}=${deployment ?? ''}`).sort();
  const file = path.relative(workspace.folder, path.resolve(workspace.cwd, chain.file.path));
  return memoryOf(path.join(workspace.recordFolder, 'remembered'), file, deployments, exit);
}

/** What the chain remembers: as it was when a run began that is gone on with. */
function rememberedFor(plan: RunPlan, endpoints: readonly Endpoint[], io: Io): ObjectValue {
  if (plan.purpose !== 'run') return {};
  const [first] = plan.goesOn?.journal ?? [];
  if (first?.type !== 'run') return memoryFor(plan, endpoints, io).read();
  return Object.fromEntries(
    Object.entries(first.remembered).map(([name, stored]) => [name, fromStored(stored) ?? null]),
  );
}

/** Opens a record and the network for what is done in it, at these endpoints. The transport is loaded only here. */
export async function withRecord<T>(
  plan: RunPlan,
  io: Io,
  work: (request: RunRequest, endpoints: readonly Endpoint[]) => Promise<T>,
): Promise<T> {
  const { createTransport } = await import('../adapters/transport.ts');
  const { workspace, chain, at } = plan;
  for (const [name, value] of Object.entries(plan.secrets)) io.exit.masker.add(name, value);
  for (const { name, type } of chain.inputs) {
    const value = plan.inputs.get(name);
    if (type === 'secret' && typeof value === 'string') io.exit.masker.add(name, value);
  }
  const { goesOn } = plan;
  const endpoints = endpointsUsed(workspace, [chain, ...plan.used.chains], at);
  await confirmTrust(workspace, endpoints, io);
  const run = plan.run ?? newRunId(workspace.recordFolder, new Date(systemClock.nowMs()), Math.random);
  const open = plan.purpose === 'choices' ? heldStore : goesOn ? reopenJournalStore : createJournalStore;
  const store = open(workspace.recordFolder, run, io.exit);
  const listeners = [...plan.listeners, warmForLoops];
  const recorder = new Recorder(systemClock, io.exit.masker, store, listeners, goesOn?.journal.last()?.seq ?? 0);
  const transport = createTransport(io.environment);
  const limiters = limiterFiles(path.join(workspace.recordFolder, 'limiters'));
  const abort = new AbortController();
  const stopping = new AbortController();
  io.onInterrupt(() => {
    if (stopping.signal.aborted) abort.abort();
    stopping.abort();
    setTimeout(() => abort.abort(), GRACE_MS).unref();
  });
  try {
    const remembered = rememberedFor(plan, endpoints, io);
    const files = [chain.file, ...(workspace.project ? [workspace.project.file] : [])].map(hashOf);
    if (goesOn) recorder.record({ type: 'resumed', files, options: plan.options });
    else if (plan.purpose !== 'choices')
      recorder.record({
        type: 'run',
        v: 2,
        run,
        tool: `batharon ${VERSION}`,
        chain: plan.purpose === 'send' ? '' : plan.host.inProject(chain.file),
        name: chain.name,
        files,
        inputs: storedInputs(chain, plan.inputs, recorder),
        remembered: Object.fromEntries(
          Object.entries(remembered).map(([name, value]) => [name, recorder.stored(value)]),
        ),
        apis: endpoints.map((endpoint) => ({
          name: endpoint.api,
          deployment: endpoint.deployment ?? null,
          url: shownUrl(endpoint),
        })),
        seed: plan.host.seed,
        now: plan.now,
        zone: plan.host.zone,
        options: plan.options,
      });
    for (const event of plan.before ?? []) recorder.record(withBody(event, store));
    if (plan.recorded?.settled) recorder.record(...plan.recorded.settled);
    const { settings = {} } = plan;
    const request: RunRequest = {
      settings,
      limiters: new RateLimiters(limiters, systemClock, settings.share),
      id: run,
      chain,
      remembered,
      exchanges: plan.exchanges ?? plan.before?.filter(({ type }) => type === 'sent').length ?? 0,
      recorded: plan.recorded,
      inputs: plan.inputs,
      secrets: plan.secrets,
      endpointOf: endpointsFor(chain, workspace, at),
      recorder,
      transport,
      clock: systemClock,
      signal: abort.signal,
      stopping: stopping.signal,
      host: plan.host,
      help: plan.help,
      tokens: tokenStore(path.join(workspace.recordFolder, 'tokens'), io.exit),
      chainAt: plan.used.chainAt,
      accept: plan.accept,
      ask: plan.ask,
      mayCarry: carriage(workspace, plan.purpose),
      openCallbacks: async (where) => (await import('../adapters/callbacks.ts')).openCallbacks(where),
      userAgent: USER_AGENT,
      maxBodyBytes: DEFAULT_MAX_BODY_BYTES,
    };
    return await work(request, endpoints);
  } catch (error) {
    throw unwritten(error, run);
  } finally {
    abort.abort();
    await transport.close();
    limiters.close();
    await store.close().catch(() => {});
  }
}

/** What is secret goes to the servers that it belongs to; what belongs to none goes to any api, and with `send` where a person says. */
function carriage({ project }: Workspace, purpose: RunPlan['purpose']): Run['mayCarry'] {
  const owners = secretOwners(project);
  const apis = new Set(project?.apis.map(({ name }) => name));
  return (mark, to) => {
    if (mark.secret !== undefined && owners.has(mark.secret)) return owners.get(mark.secret)!.has(to);
    if (mark.secret === undefined && mark.from !== undefined) return mark.from === to || mark.also.includes(to);
    return apis.has(to) || purpose === 'send';
  };
}

/** What is recorded before there is a run stays in its events. */
const heldStore = (): JournalStore => ({
  ...noStore(),
  storeBody: (content, type) => ({
    sha256: hash('sha256', content),
    size: content.length,
    ...(type === undefined ? {} : { type }),
    ...(typeof content === 'string' ? { text: content } : { dropped: 'polled' as const }),
  }),
});

/** An event that was held, with its body where bodies of that size belong. */
function withBody({ seq: _seq, ...event }: JournalEvent, store: JournalStore): EventBody & { at: number } {
  if (event.type !== 'answered' || !event.body || !('text' in event.body)) return event;
  return {
    ...event,
    body: { ...store.storeBody(event.body.text, event.body.type), ...(event.body.masked ? { masked: true } : {}) },
  };
}

/** What is asked of the system for a record. That a file cannot be read is no fault of the record. */
const WRITING: ReadonlySet<string> = new Set(['write', 'fdatasync', 'fsync']);

/** What the system refuses to write ends a run, and leaves it so that it can go on: what is not recorded is not sent. */
function unwritten(error: unknown, run: string): unknown {
  const { code = '', syscall = '' } = error as NodeJS.ErrnoException;
  if (!WRITING.has(syscall)) return error;
  const why = code === 'ENOSPC' || code === 'EDQUOT' ? 'no space is left on the disk' : code;
  const message = `The run ${run} stopped because its record could not be written: ${why}`;
  return new CommandError('not-writable', message, `Free some space, then: batharon resume ${run}`, 3);
}

/** Items of a loop from which it pays to have the code compiled early. */
const MANY_ITEMS = 100;

function warmForLoops(event: ListenerEvent): void {
  if (event.type === 'opened' && (event.total ?? 0) >= MANY_ITEMS) expectMuchWork();
}

/** Where calls go; a chain that signs in carries no credentials to the api that it signs in to. */
export function endpointsFor(chain: Chain, { project }: Workspace, at: At): EndpointOf {
  const lookup = endpointsOf(project, at);
  const own = signsInTo(chain, project);
  if (own === undefined) return lookup;
  return (of, call) => {
    const endpoint = lookup(of, call);
    return endpoint?.api === own ? withoutAuth(endpoint) : endpoint;
  };
}

function hashOf({ path: file, text }: SourceFile): { path: string; sha256: string } {
  return { path: file.split(path.sep).join('/'), sha256: hash('sha256', text) };
}

/** Secret inputs are in no record. */
function storedInputs(chain: Chain, inputs: ReadonlyMap<string, Maybe>, recorder: Recorder): Record<string, Stored> {
  const secret = new Set(chain.inputs.filter(({ type }) => type === 'secret').map(({ name }) => name));
  return Object.fromEntries(
    [...inputs].map(([name, value]) => [
      name,
      value === undefined ? { nothing: true } : secret.has(name) ? { secret: name } : recorder.stored(value),
    ]),
  );
}

/** What a run is made of that sends nothing: no record, no network, nobody to ask. */
export function unsentRequest(plan: UnsentPlan, recorder: Recorder, clock: Clock, io: Io): RunRequest {
  const { workspace, chain, used, at, inputs, secrets, host } = plan;
  const never = () => Promise.reject(new Error('Nothing is sent here'));
  const signal = new AbortController().signal;
  return {
    id: '',
    settings: {},
    chain,
    inputs,
    secrets,
    endpointOf: endpointsFor(chain, workspace, at),
    recorder,
    limiters: new RateLimiters(new MemoryLimiters(), clock, undefined),
    transport: { exchange: never, close: async () => {} },
    clock,
    signal,
    stopping: signal,
    host,
    help: signInHelp(false, io.exit),
    tokens: { withLock: never },
    chainAt: used.chainAt,
    openCallbacks: never,
    userAgent: USER_AGENT,
    maxBodyBytes: DEFAULT_MAX_BODY_BYTES,
  };
}

export type UnsentPlan = Pick<RunPlan, 'workspace' | 'chain' | 'used' | 'at' | 'inputs' | 'secrets' | 'host'>;

/** The frame in which requests are built that are not sent. */
export function buildingFrame(plan: UnsentPlan, io: Io): StepFrame {
  for (const [name, value] of Object.entries(plan.secrets)) io.exit.masker.add(name, value);
  const recorder = new Recorder(systemClock, io.exit.masker, noStore(), []);
  return openRun(unsentRequest(plan, recorder, systemClock, io));
}
