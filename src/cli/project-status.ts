import path from 'node:path';
import { findChains } from '../adapters/project-files.ts';
import { counted } from '../core/value/show.ts';
import { listedRuns, runLine } from './commands/runs.ts';
import type { ExitStatus, Io } from './io.ts';
import { limitLines } from './limits-now.ts';
import { paletteOf } from './view/palette.ts';
import { cut } from './view/text.ts';
import { openProject } from './workspace.ts';

/** Runs that are shown. */
const MOST = 5;

/** Where one stands in a project: its apis and chains, the last runs, what can be gone on with, what to do next. */
export function showStanding(io: Io): ExitStatus {
  const workspace = openProject(io.cwd);
  const palette = paletteOf(io.colors);
  const { strong, quiet, name } = palette;
  const apis = (workspace.project?.apis ?? []).map(({ name: api, endpoints, defaultDeployment }) => {
    const places = endpoints.flatMap(({ deployment }) => (deployment === undefined ? [] : [deployment]));
    return places.length === 0
      ? api
      : `${api} at ${defaultDeployment ?? '?'}${places.length > 1 ? ` (also ${places.filter((each) => each !== defaultDeployment).join(', ')})` : ''}`;
  });
  const chains = findChains(workspace.folder).map((file) => path.relative(io.cwd, file));
  const runs = listedRuns(workspace, 50).filter(({ result }) => result !== 'sent');
  io.exit.out(`${strong(path.basename(workspace.folder))}   ${quiet(workspace.folder)}\n`);
  io.exit.out(`APIs     ${apis.join(', ') || 'none yet'}\n`);
  const named = chains.length > 0 ? `: ${chains.join(', ')}` : '';
  io.exit.out(`${cut(`chains   ${counted(chains.length, 'chain')}${named}`, io.columns)}\n`);
  for (const line of limitLines(workspace, palette)) io.exit.out(`${cut(line, io.columns)}\n`);
  if (runs.length > 0)
    io.exit.out(
      `\n${runs
        .slice(0, MOST)
        .map((each) => `${runLine(each, palette, io.columns)}\n`)
        .join('')}`,
    );
  const open = runs.find(({ result }) => result !== 'passed' && result !== 'under way' && result !== 'damaged');
  const newest = runs[0];
  const next = [
    ...(newest?.result === 'failed' ? [['batharon look', 'show the last exchange'] as const] : []),
    ...(open
      ? [
          [
            `batharon resume ${open.run}`,
            `resume it: it ${open.result === 'killed' ? 'was killed' : open.result === 'failed' ? 'failed' : 'is paused'}`,
          ] as const,
        ]
      : []),
    ...(chains[0] !== undefined && runs.length === 0 ? [[`batharon run ${chains[0]}`, 'run a chain'] as const] : []),
    ...(workspace.diagnostics.length > 0
      ? [['batharon check', 'find out what is wrong with the project file'] as const]
      : []),
    ['batharon --help', 'list all commands'] as const,
  ];
  const width = Math.max(...next.map(([command]) => command.length));
  io.exit.out(`\n${next.map(([command, what]) => `${name(command.padEnd(width))}   ${quiet(what)}\n`).join('')}`);
  return 0;
}
