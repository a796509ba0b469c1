import path from 'node:path';
import { memoryOf } from '../adapters/memory.ts';
import type { Endpoint } from '../core/http/endpoint.ts';
import type { EventOf } from '../core/journal/events.ts';
import { fromStored } from '../core/journal/stored.ts';
import type { ObjectValue } from '../core/value/value.ts';
import type { Caller } from './caller.ts';
import type { RunPlan } from './run-plan.ts';

/** What a chain remembers from run to run, at its deployments. */
export function memoryFor({ workspace, chain }: RunPlan, endpoints: readonly Endpoint[], { exit }: Caller) {
  const deployments = endpoints.map(({ api, deployment }) => `${api}=${deployment ?? ''}`).sort();
  const file = path.relative(workspace.folder, path.resolve(workspace.cwd, chain.file.path));
  return memoryOf(path.join(workspace.recordFolder, 'remembered'), file, deployments, exit);
}

/** What the chain remembers: as it was when a run began that is gone on with. */
export function rememberedFor(plan: RunPlan, endpoints: readonly Endpoint[], caller: Caller): ObjectValue {
  if (plan.purpose !== 'run') return {};
  const [first] = plan.goesOn?.journal ?? [];
  if (first?.type !== 'run') return memoryFor(plan, endpoints, caller).read();
  return rememberedAt(first);
}

/** What a recorded run had remembered when it began. */
export function rememberedAt({ remembered }: EventOf<'run'>): ObjectValue {
  return Object.fromEntries(Object.entries(remembered).map(([name, stored]) => [name, fromStored(stored) ?? null]));
}
