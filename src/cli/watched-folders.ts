import { readdirSync, watch, type FSWatcher } from 'node:fs';
import path from 'node:path';

/** Folders that hold nothing that a person saves for a chain. */
const LEFT_OUT = /^(\..*|node_modules)$/;

/**
 * Calls back when a file that a chain may read is saved in a folder or below it; gives what ends that. Each folder has a
 * watcher of its own: Node's watching of a whole tree fails in 20.12 where files come and go, as records do.
 */
export function watchFolders(top: string, saved: () => void): () => void {
  const watchers = new Map<string, FSWatcher>();
  const add = (folder: string): void => {
    if (!watchers.has(folder)) {
      const watcher = watcherOf(folder, (kind, name) => {
        if (kind === 'rename') add(folder);
        if (name !== null && /\.(ya?ml|json|env)$/.test(name)) saved();
      });
      if (!watcher) return;
      watcher.on('error', () => (watcher.close(), watchers.delete(folder)));
      watchers.set(folder, watcher);
    }
    for (const name of foldersIn(folder)) add(path.join(folder, name));
  };
  add(top);
  return () => watchers.forEach((watcher) => watcher.close());
}

/** A folder may be removed before it can be watched, as while it is. */
function watcherOf(folder: string, listener: (kind: string, name: string | null) => void): FSWatcher | undefined {
  try {
    return watch(folder, listener);
  } catch {
    return undefined;
  }
}

function foldersIn(folder: string): readonly string[] {
  try {
    const entries = readdirSync(folder, { withFileTypes: true });
    return entries.flatMap((each) => (each.isDirectory() && !LEFT_OUT.test(each.name) ? [each.name] : []));
  } catch {
    return [];
  }
}
