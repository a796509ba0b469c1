import { createHash } from 'node:crypto';
import { listRuns, readRun } from '../adapters/journal-reader.ts';
import type { RedisSlices } from '../adapters/redis/redis-slices.ts';
import type { SecretStore } from '../adapters/secrets.ts';
import { StoreFault } from '../core/pacing/limiter-store.ts';
import { present } from '../core/value/present.ts';
import { canonicalJson } from '../core/value/canonical.ts';
import { SpilledList, type Maybe } from '../core/value/value.ts';
import type { Caller } from './caller.ts';
import { CommandError } from './command-error.ts';
import { sharedLimitsUrl } from './limiters.ts';
import type { RunPlan } from './run-plan.ts';
import { startRun } from './start-run.ts';
import type { Workspace } from './workspace.ts';
import { keepWritten } from './written-copies.ts';

/** The slices of divided runs in the Redis of the project. Throws `CommandError` where it names none. */
export async function openSlices(
  workspace: Workspace,
  caller: Pick<Caller, 'environment' | 'exit'>,
  find: SecretStore['find'],
): Promise<RedisSlices> {
  const url = sharedLimitsUrl(workspace, caller, find);
  if (url === undefined) {
    const message = 'Slices are taken from a Redis, and the project names none';
    throw new CommandError(
      'needs-redis',
      message,
      'Name one: redis in batharon.yaml, or BATHARON_REDIS. Without one: --slice 2/5.',
    );
  }
  const { RedisSlices: Slices } = await import('../adapters/redis/redis-slices.ts');
  return new Slices(url, new URL(url).host, workspace.recordFolder);
}

/** What Redis does not do is told as a mistake of the surroundings. */
export async function askingSlices<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    if (!(error instanceof StoreFault)) throw error;
    throw new CommandError('redis-not-usable', error.message, undefined, 3);
  }
}

/**
 * What runs have in common that are slices of one: the chain, the files, the inputs, the deployments, and the number of
 * slices. It is the same on every machine, and says nothing of any of these.
 */
export function divisionId(
  { chain, workspace, inputs, options, host }: Pick<RunPlan, DivisionParts>,
  of: number,
): string {
  const secret = new Set(chain.inputs.filter(({ type }) => type === 'secret').map(({ name }) => name));
  const given = [...inputs].filter(([name]) => !secret.has(name)).map(([name, value]) => [name, digestOf(value)]);
  const what = [
    host.inProject(chain.file),
    chain.file.text,
    workspace.project?.file.text ?? '',
    given,
    options['at'],
    of,
  ];
  return createHash('sha256').update(JSON.stringify(what)).digest('hex').slice(0, 24);
}

type DivisionParts = 'chain' | 'workspace' | 'inputs' | 'options' | 'host';

function digestOf(value: Maybe): string {
  if (value === undefined) return '';
  if (value instanceof SpilledList) return value.file.sha256;
  return createHash('sha256').update(canonicalJson(value)).digest('hex');
}

/** Runs a plan; one that is a slice tells all that there are of it, and stays with its record while it is paused. */
export async function startSlice(plan: ReadyPlan, caller: Caller): ReturnType<typeof startRun> {
  const { division, part } = plan.settings?.slice ?? {};
  if (part === undefined) return startRun(plan, caller);
  const { workspace, run } = plan;
  const started = async (isLastSlice?: RunPlan['isLastSlice']) => {
    const result = await startRun({ ...plan, ...present({ isLastSlice }) }, caller);
    keepWritten(workspace.recordFolder, run);
    return result;
  };
  if (division === undefined) return started();
  const slices = await openSlices(workspace, caller, (name) => plan.secrets[name]);
  try {
    if (!(await askingSlices(() => slices.mark(division, part, run, 'under way')))) throw givenUp(part);
    const result = await started((key) => slices.isLast(division, part, key));
    await askingSlices(() => tellEnd(slices, workspace, run, division, part));
    return result;
  } finally {
    slices.close();
  }
}

/** Tells how the slice of a record ended; one that is paused stays as it is. */
async function tellEnd(
  slices: RedisSlices,
  { recordFolder }: Workspace,
  run: string,
  division: string,
  part: number,
): Promise<void> {
  const last = readRun(recordFolder, run)?.journal.last();
  if (last?.type === 'finished') await slices.mark(division, part, run, last.outcome === 'passed' ? 'done' : 'failed');
}

/** Tells of slices that ended here when it could not be told, as when their process was killed just then. */
export async function tellEnds(
  slices: RedisSlices,
  workspace: Workspace,
  division: string,
  chain: string,
): Promise<void> {
  const found = (await slices.divisions(chain)).find(({ id }) => id === division);
  const open = found?.slices.filter(({ state, machine }) => state === 'under way' && machine === slices.machine) ?? [];
  if (open.length === 0) return;
  const runs = new Map(listRuns(workspace.recordFolder).map((run) => [slices.recordOf(run), run]));
  for (const { part, record = 0 } of open) {
    const run = runs.get(record);
    if (run !== undefined) await tellEnd(slices, workspace, run, division, part);
  }
}

type ReadyPlan = RunPlan & Readonly<{ run: string }>;

function givenUp(part: number): CommandError {
  const message = `Slice ${part} was given up, and is free or of another record now: what this one would do may be done there`;
  return new CommandError('run-under-way', message, 'To see who has it: batharon slices');
}
