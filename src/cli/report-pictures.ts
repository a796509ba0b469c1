import path from 'node:path';
import { readRun } from '../adapters/journal-reader.ts';
import type { Picture } from '../core/picture/picture.ts';
import { pictureOf } from '../core/picture/picture-of.ts';
import { readChain } from '../core/chain/chain-file.ts';
import type { RunSummary } from '../core/report/run-summary.ts';
import { CommandError } from '../runner/command-error.ts';
import { isAsRun } from '../runner/ran-as-is.ts';
import { openWorkspace, type Workspace } from '../runner/workspace.ts';

/** The pictures of the chains of some runs, by run: of those whose files are still what was run. */
export function picturesFor(recordFolder: string, runs: readonly RunSummary[]): ReadonlyMap<string, Picture> {
  const workspace = workspaceAt(path.dirname(recordFolder));
  const known = new Map<string, Picture | undefined>();
  const pictures = new Map<string, Picture>();
  for (const { id, file } of workspace ? runs : []) {
    const picture = known.has(file) ? known.get(file) : drawn(workspace!, recordFolder, id, file);
    known.set(file, picture);
    if (picture) pictures.set(id, picture);
  }
  return pictures;
}

function workspaceAt(folder: string): Workspace | undefined {
  try {
    return openWorkspace(folder);
  } catch (error) {
    if (error instanceof CommandError) return undefined;
    throw error;
  }
}

function drawn(workspace: Workspace, recordFolder: string, id: string, file: string): Picture | undefined {
  const { file: source } = workspace.reading.readSource(path.join(workspace.folder, file), workspace.folder);
  const [first] = readRun(recordFolder, id)?.journal ?? [];
  if (!source || first?.type !== 'run') return undefined;
  if (!isAsRun(first, file, source)) return undefined;
  const { chain } = readChain(source);
  return chain && pictureOf(chain, workspace.project);
}
