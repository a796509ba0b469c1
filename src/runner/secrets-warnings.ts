import path from 'node:path';
import { isIgnoredByGit, SECRETS_FILE } from '../adapters/project-files.ts';
import type { SecretStore } from '../adapters/secrets.ts';
import { diagnosticAt, type Diagnostic } from '../core/diagnostics/source.ts';
import type { Workspace } from './workspace.ts';

/** What is to be said of `secrets.env` itself: others can read it, or git would take it in. */
export function secretsWarnings({ project, folder, cwd }: Workspace, store: SecretStore): readonly Diagnostic[] {
  if (!project || !store.hasFile) return [];
  const file = { path: path.join(path.relative(cwd, folder), SECRETS_FILE), text: '' };
  const range = [0, 0] as const;
  const found: Diagnostic[] = [];
  if (store.readableByOthers) {
    const message = `${SECRETS_FILE} can be read by other users of this machine`;
    found.push(
      diagnosticAt(file, {
        code: 'secrets-readable',
        range,
        message,
        advice: `Restrict it: chmod 600 ${file.path}`,
      }),
    );
  }
  if (!isIgnoredByGit(folder)) {
    const message = `${SECRETS_FILE} is not ignored by git and could be committed`;
    found.push(
      diagnosticAt(file, {
        code: 'secrets-in-git',
        range,
        message,
        advice: `Add the line ${SECRETS_FILE} to .gitignore.`,
      }),
    );
  }
  return found;
}
