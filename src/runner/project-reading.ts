import { readSourceFile } from '../adapters/project-files.ts';

/** How files of a project are read, and whether its secrets are looked up to find them where they do not belong. */
export type ProjectReading = Readonly<{ readSource: typeof readSourceFile; knowsSecrets: boolean }>;

export const FROM_DISK: ProjectReading = { readSource: readSourceFile, knowsSecrets: true };
