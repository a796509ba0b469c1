import { readFileSync } from 'node:fs';
import { homedir } from 'node:os';
import path from 'node:path';
import type { MaskedOutput } from './masked-output.ts';

/** What a person has agreed to for each project folder: in the user's own configuration, never in a project. */
export function trustFile(environment: NodeJS.ProcessEnv, exit: MaskedOutput) {
  const file = path.join(configFolder(environment), 'trusted.json');
  const read = (): Record<string, readonly string[]> => {
    try {
      const said = JSON.parse(readFileSync(file, 'utf8')) as unknown;
      return Object.assign(Object.create(null) as object, said) as Record<string, readonly string[]>;
    } catch {
      return Object.create(null) as Record<string, readonly string[]>;
    }
  };
  return {
    trusted: (folder: string): ReadonlySet<string> => {
      const known = read()[folder];
      return new Set(Array.isArray(known) ? known : []);
    },
    trust: (folder: string, reliances: readonly string[]): void => {
      const all = read();
      all[folder] = [...new Set([...(all[folder] ?? []), ...reliances])].sort();
      exit.writeFile(file, `${JSON.stringify({ ...all }, null, 2)}\n`);
    },
  };
}

function configFolder({ XDG_CONFIG_HOME: xdg, APPDATA: roaming }: NodeJS.ProcessEnv): string {
  if (xdg) return path.join(xdg, 'batharon');
  if (process.platform === 'win32' && roaming) return path.join(roaming, 'batharon');
  const own = process.platform === 'darwin' ? ['Library', 'Application Support'] : ['.config'];
  return path.join(homedir(), ...own, 'batharon');
}
