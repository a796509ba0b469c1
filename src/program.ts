/** The one bundle: the launcher starts the command line from it, and `require('batharon')` gives the library. */
import { commandEntries } from './cli/commands/list.ts';

export { start } from './cli/start.ts';
export * as library from './index.ts';

/** What the thread runs that checks files for an editor. */
export { serveChecks } from './language-server/check-worker.ts';

/** The launcher keeps compiled code for these commands. */
export const commandNames: readonly string[] = commandEntries.map(({ name }) => name);
