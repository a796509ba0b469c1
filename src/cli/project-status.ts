import path from 'node:path';
import { findChains } from '../adapters/project-files.ts';
import { counted } from '../core/value/show.ts';
import type { Api } from '../core/chain/project-file.ts';
import { listedRuns, runLine, type ListedRun } from './commands/runs.ts';
import type { ExitStatus, Io } from './io.ts';
import { limitLines } from './limits-now.ts';
import { paletteOf } from './view/palette.ts';
import { cut } from './view/text.ts';
import { openProject, type Workspace } from '../runner/workspace.ts';

/** Runs that are shown. */
const MOST = 5;

/** Where one stands in a project: its apis and chains, the last runs, what can be gone on with, what to do next. */
export async function showStanding(io: Io): Promise<ExitStatus> {
  const workspace = openProject(io.cwd);
  const palette = paletteOf(io.colors);
  const { strong, quiet, name } = palette;
  const chains = findChains(workspace.folder).map((file) => path.relative(io.cwd, file));
  const runs = listedRuns(workspace, 50).filter(({ result }) => result !== 'sent');
  io.exit.out(`${strong(path.basename(workspace.folder))}   ${quiet(workspace.folder)}\n`);
  io.exit.out(`APIs     ${workspace.project?.apis.map(apiWords).join(', ') || 'none yet'}\n`);
  const named = chains.length > 0 ? `: ${chains.join(', ')}` : '';
  io.exit.out(`${cut(`chains   ${counted(chains.length, 'chain')}${named}`, io.columns)}\n`);
  for (const line of await limitLines(workspace, io, palette)) io.exit.out(`${cut(line, io.columns)}\n`);
  const newest = runs.slice(0, MOST).map((each) => `${runLine(each, palette, io.columns)}\n`);
  if (newest.length > 0) io.exit.out(`\n${newest.join('')}`);
  const next = nextCommands(runs, chains, workspace);
  const width = Math.max(...next.map(([command]) => command.length));
  io.exit.out(`\n${next.map(([command, what]) => `${name(command.padEnd(width))}   ${quiet(what)}\n`).join('')}`);
  return 0;
}

/** `harbour at sandbox (also live)`. */
function apiWords({ name, endpoints, defaultDeployment }: Api): string {
  const places = endpoints.flatMap(({ deployment }) => deployment ?? []);
  if (places.length === 0) return name;
  const others = places.filter((each) => each !== defaultDeployment);
  const also = places.length > 1 ? ` (also ${others.join(', ')})` : '';
  return `${name} at ${defaultDeployment ?? '?'}${also}`;
}

/** Why a run can be gone on with. */
const STOPPED: Readonly<Record<string, string>> = { killed: 'was killed', failed: 'failed' };

/** What may be done next, and why. */
function nextCommands(
  runs: readonly ListedRun[],
  [firstChain]: readonly string[],
  { diagnostics }: Workspace,
): readonly (readonly [command: string, what: string])[] {
  const open = runs.find(({ result }) => result !== 'passed' && result !== 'under way' && result !== 'damaged');
  return [
    ...(runs[0]?.result === 'failed' ? [['batharon look', 'show the last exchange'] as const] : []),
    ...(open ? [[`batharon resume ${open.run}`, `resume it: it ${STOPPED[open.result] ?? 'is paused'}`] as const] : []),
    ...(firstChain !== undefined && runs.length === 0 ? [[`batharon run ${firstChain}`, 'run a chain'] as const] : []),
    ...(diagnostics.length > 0 ? [['batharon check', 'find out what is wrong with the project file'] as const] : []),
    ['batharon --help', 'list all commands'],
  ];
}
