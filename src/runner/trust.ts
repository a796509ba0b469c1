import { realpathSync } from 'node:fs';
import { trustFile } from '../adapters/trust-file.ts';
import { secretOwners } from '../core/chain/secret-owners.ts';
import { reliancesOf } from '../core/chain/trusted-set.ts';
import type { Endpoint } from '../core/http/endpoint.ts';
import { visible } from '../core/value/visible.ts';
import { CommandError } from './command-error.ts';
import type { Caller } from './caller.ts';
import { namesFromCommands, type SecretValues } from './secret-values.ts';
import type { Workspace } from './workspace.ts';

/**
 * Asks, the first time that a project's secrets go somewhere or come from a command, whether they are to. Without somebody to ask it is said and
 * done, or refused with `--trusted-only`. Throws `CommandError`.
 */
export async function confirmTrust(
  { project, folder }: Workspace,
  endpoints: readonly Endpoint[],
  secrets: SecretValues,
  caller: Caller,
): Promise<void> {
  const names = namesFromCommands(secrets);
  const commands = (project?.secrets ?? []).filter(({ name }) => names.includes(name));
  const reliances = reliancesOf(endpoints, secretOwners(project), commands);
  if (reliances.length === 0) return;
  const file = trustFile(caller.environment, caller.exit);
  const place = realpathSync(folder);
  const trusted = file.trusted(place);
  const added = reliances.filter((each) => !trusted.has(each));
  if (added.length === 0) return;
  const lines = added.map((each) => `  ${visible(each)}\n`).join('');
  const refusal = (message: string, advice: string) => new CommandError('not-trusted', message, advice);
  if (caller.trustedOnly)
    throw refusal(
      `${added.length === 1 ? 'This was' : 'These were'} never agreed to:\n${lines.trimEnd()}`,
      'Run it once on a terminal without --trusted-only, and agree.',
    );
  if (!caller.mayAsk) {
    caller.exit.err(`note: new in this project, and nobody was asked (--trusted-only refuses):\n${lines}`);
    return;
  }
  caller.exit.err(`New in this project:\n${lines}`);
  const { askYesNo } = await import('../adapters/prompts.ts');
  if (!(await askYesNo('Is this as it should be?', caller.exit)))
    throw refusal('Nothing was sent, as you said', 'Review batharon.yaml: its URLs, proxies and secrets.');
  file.trust(place, added);
}
