import path from 'node:path';
import { LOCAL_FILE, PROJECT_FILE } from '../adapters/project-files.ts';

export type FileKind = 'chain' | 'project';

/** What a file is by its name. */
export function kindOf(file: string): FileKind | undefined {
  if (/\.chain\.ya?ml$/.test(file)) return 'chain';
  return [PROJECT_FILE, LOCAL_FILE].includes(path.basename(file)) ? 'project' : undefined;
}
