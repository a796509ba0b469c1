import { readAt } from '../runner/deployments.ts';
import path from 'node:path';
import { findChains } from '../adapters/project-files.ts';
import { missingInputs } from '../core/chain/inputs.ts';
import type { Diagnostic } from '../core/diagnostics/source.ts';
import { loadChain, openProject } from '../runner/workspace.ts';

/** A chain file that was read and checked. */
export type LoadedChainFile = Readonly<{
  file: string;
  name: string;
  /** What is wrong with it, errors and warnings, in order of place. */
  diagnostics: readonly Diagnostic[];
  /** The names of its inputs that must be given. */
  required: readonly string[];
  /** The folder of its project. */
  folder: string;
}>;

/** A project: the folder of a `batharon.yaml`. */
export type LoadedProject = Readonly<{
  folder: string;
  /** What is wrong with its project file. */
  diagnostics: readonly Diagnostic[];
  /** Chain files below it, as paths relative to it. */
  chains: readonly string[];
  /** Reads and checks one of them, for deployments as `--at` says them. Throws when it is not there. */
  chain(file: string, at?: readonly string[]): LoadedChainFile;
}>;

/** Opens the project in which a folder is. Throws when there is none. */
export function loadProject(folder: string): LoadedProject {
  const workspace = openProject(path.resolve(folder));
  return {
    folder: workspace.folder,
    diagnostics: workspace.diagnostics,
    chains: findChains(workspace.folder).map((file) => path.relative(workspace.folder, file)),
    chain: (file, at = []) => {
      const loaded = loadChain({ ...workspace, cwd: workspace.folder }, file, readAt({ at }, {}, workspace.project));
      return {
        file,
        name: loaded.chain?.name ?? file,
        diagnostics: [...workspace.diagnostics, ...loaded.diagnostics],
        required: loaded.chain ? missingInputs(loaded.chain, new Set()).map(({ name }) => name) : [],
        folder: workspace.folder,
      };
    },
  };
}
