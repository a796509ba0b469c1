import type { Stored } from '../core/journal/records.ts';
import { hash } from 'node:crypto';
import path from 'node:path';
import { systemClock } from '../adapters/clock.ts';
import { expectLittleHeld, expectMuchWork } from '../adapters/compiler.ts';
import { createJournalStore, newRunId, reopenJournalStore } from '../adapters/journal-files.ts';
import { tokenStore } from '../adapters/token-store.ts';
import type { Chain } from '../core/chain/model.ts';
import { secretOwners } from '../core/chain/secret-owners.ts';
import type { SourceFile } from '../core/diagnostics/source.ts';
import type { Run } from '../core/engine/frame.ts';
import { DEFAULT_MAX_BODY_BYTES, type RunRequest } from '../core/engine/run-chain.ts';
import { shownUrl } from '../core/http/shown-request.ts';
import type { Endpoint } from '../core/http/endpoint.ts';
import type { EventBody, ListenerEvent } from '../core/journal/events.ts';
import { Recorder } from '../core/journal/recorder.ts';
import { RateLimiters } from '../core/pacing/rate-limiters.ts';
import type { JournalStore } from '../core/ports.ts';
import { present } from '../core/value/present.ts';
import type { Maybe, ObjectValue } from '../core/value/value.ts';
import type { Caller } from './caller.ts';
import { CommandError } from './command-error.ts';
import { endpointsFor, endpointsUsed } from './endpoints.ts';
import { heldStore, withBody } from './held-events.ts';
import { rememberedFor } from './memory.ts';
import type { RunPlan } from './run-plan.ts';
import { openLimiters } from './limiters.ts';
import { confirmTrust } from './trust.ts';
import { USER_AGENT, VERSION } from './version.ts';
import type { Workspace } from './workspace.ts';

/** Time that requests in flight are given after the first wish to end. */
const GRACE_MS = 5000;

/** Opens a record and the network for what is done in it, at these endpoints. The transport is loaded only here. */
export async function withRecord<T>(
  plan: RunPlan,
  caller: Caller,
  work: (request: RunRequest, endpoints: readonly Endpoint[]) => Promise<T>,
): Promise<T> {
  const { createTransport } = await import('../adapters/transport.ts');
  const { workspace, chain, at, goesOn, before = [], settings = {} } = plan;
  maskInputs(plan, caller);
  const endpoints = endpointsUsed(workspace, [chain, ...plan.used.chains], at);
  await confirmTrust(workspace, endpoints, plan.secrets, caller);
  const limiters = await openLimiters(workspace, caller, (name) => plan.secrets[name], systemClock);
  const run = plan.run ?? newRunId(workspace.recordFolder, new Date(systemClock.nowMs()), Math.random);
  const store = openStore(plan, run, caller);
  const listeners = [...plan.listeners, warmForMany];
  const recorder = new Recorder(systemClock, caller.exit.masker, store, listeners, goesOn?.journal.last()?.seq ?? 0);
  const transport = createTransport(caller.environment);
  const { abort, stopping } = endings(caller);
  try {
    const remembered = rememberedFor(plan, endpoints, caller);
    recorder.record(...firstEvents(plan, run, recorder, endpoints, remembered));
    for (const event of before) recorder.record(withBody(event, store));
    recorder.record(...(plan.recorded?.settled ?? []));
    const request: RunRequest = {
      settings,
      limiters: new RateLimiters(limiters, systemClock, settings.share),
      id: run,
      chain,
      remembered,
      exchanges: plan.exchanges ?? before.filter(({ type }) => type === 'sent').length,
      recorded: plan.recorded && { ...plan.recorded, isUnchanged: plan.recorded.records.isOf(filesOf(plan)) },
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
      tokens: tokenStore(path.join(workspace.recordFolder, 'tokens'), caller.exit),
      chainAt: plan.used.chainAt,
      accept: plan.accept,
      ask: plan.ask,
      ...present({ isLastSlice: plan.isLastSlice }),
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

/** What is secret is masked from the first line on. */
function maskInputs({ secrets, chain, inputs }: RunPlan, { exit: { masker } }: Caller): void {
  for (const [name, value] of Object.entries(secrets)) masker.add(name, value);
  for (const { name, type } of chain.inputs) {
    const value = inputs.get(name);
    if (type === 'secret' && typeof value === 'string') masker.add(name, value);
  }
}

function openStore({ purpose, goesOn, workspace }: RunPlan, run: string, { exit }: Caller): JournalStore {
  if (purpose === 'choices') return heldStore();
  const open = goesOn ? reopenJournalStore : createJournalStore;
  return open(workspace.recordFolder, run, exit);
}

/** The first wish to end stops what has not begun; the second, or the time after it, what is under way. */
function endings(caller: Caller): Readonly<{ abort: AbortController; stopping: AbortController }> {
  const abort = new AbortController();
  const stopping = new AbortController();
  caller.onInterrupt(() => {
    if (stopping.signal.aborted) abort.abort();
    stopping.abort();
    setTimeout(() => abort.abort(), GRACE_MS).unref();
  });
  return { abort, stopping };
}

/** How a record begins, or goes on; what is held for a run to come has no beginning of its own. */
function firstEvents(
  { workspace, chain, inputs, host, now, options, purpose, goesOn }: RunPlan,
  run: string,
  recorder: Recorder,
  endpoints: readonly Endpoint[],
  remembered: ObjectValue,
): readonly EventBody[] {
  const files = filesOf({ workspace, chain });
  if (goesOn) return [{ type: 'resumed', files, options }];
  if (purpose === 'choices') return [];
  return [
    {
      type: 'run',
      v: 2,
      run,
      tool: `batharon ${VERSION}`,
      chain: purpose === 'send' ? '' : host.inProject(chain.file),
      name: chain.name,
      files,
      inputs: storedInputs(chain, inputs, recorder),
      remembered: Object.fromEntries(Object.entries(remembered).map(([name, value]) => [name, recorder.stored(value)])),
      apis: endpoints.map((endpoint) => ({
        name: endpoint.api,
        deployment: endpoint.deployment ?? null,
        url: shownUrl(endpoint),
      })),
      seed: host.seed,
      now,
      zone: host.zone,
      options,
    },
  ];
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

/** Requests and items of a loop from which it pays to have the code compiled early. */
const MANY_REQUESTS = 40;
const MANY_ITEMS = 100;

function warmForMany(event: ListenerEvent): void {
  const isMany =
    (event.type === 'opened' && (event.total ?? 0) >= MANY_ITEMS) ||
    (event.type === 'sent' && event.x === MANY_REQUESTS);
  if (!isMany) return;
  expectMuchWork();
  expectLittleHeld();
}

/** The files that say what is done, each with its digest. */
function filesOf({ workspace: { project }, chain }: Pick<RunPlan, 'workspace' | 'chain'>) {
  return [chain.file, ...(project ? [project.file] : [])].map(hashOf);
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
