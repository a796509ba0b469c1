import { setFlagsFromString } from 'node:v8';

/**
 * Tells V8 to optimise as early as it does by itself. The launcher has told it to wait, which pays in a process that is
 * over in a fifth of a second; a command that finds much to do calls this.
 */
export function expectMuchWork(): void {
  const major = Number(process.versions.v8.split('.')[0]);
  if (major >= 11 && major <= 13) setFlagsFromString('--interrupt-budget=67584');
}
