import type { InputOptions } from '../runner/given-inputs.ts';
import { buildingFrame } from '../runner/unsent-request.ts';
import { readAt, type Where } from '../runner/deployments.ts';
import { projectSecrets } from '../runner/project-secrets.ts';
import type { Chain } from '../core/chain/model.ts';
import { hasErrors, sorted } from '../core/diagnostics/source.ts';
import type { StepFrame } from '../core/engine/frame.ts';
import { maskedSecrets, withoutCommands } from '../runner/secret-values.ts';
import { secretsFor } from '../runner/endpoints.ts';
import { commandInputs } from '../runner/inputs.ts';
import type { Io } from './io.ts';
import type { HostOptions } from '../runner/run-host.ts';
import { showDiagnostics, tally } from './view/diagnostics.ts';
import { paletteOf } from './view/palette.ts';
import { loadChain, openProject, type Workspace } from '../runner/workspace.ts';

/** A chain that is looked at and not sent: read, checked, its inputs known. */
type UnsentChain = Readonly<{ workspace: Workspace; chain: Chain; context: StepFrame }>;

/** Makes a chain ready to be looked at. What is wrong is told, with `nothing` as what comes of it; then there is none. */
export async function unsentChain(
  file: string,
  options: InputOptions & HostOptions & Where,
  nothing: string,
  io: Io,
  /** Whether secrets are looked up, or only their masks stand for them. */
  secretsAs: 'values' | 'masked' = 'values',
): Promise<UnsentChain | undefined> {
  const workspace = openProject(io.cwd);
  const at = readAt(options, io.environment, workspace.project);
  const { chain, diagnostics, used } = loadChain(workspace, file, at);
  const store = secretsAs === 'masked' ? maskedSecrets : projectSecrets(workspace, io);
  const found = [...workspace.diagnostics, ...diagnostics];
  const asked = chain ? secretsFor(workspace, [chain, ...used.chains], at, store).values : {};
  const secrets = withoutCommands(asked);
  const checked = hasErrors(found) ? undefined : chain;
  const { inputs, host, diagnostics: ofInputs } = await commandInputs(checked, file, secrets, options, workspace, io);
  found.push(...ofInputs);
  if (found.length > 0) io.exit.err(`${showDiagnostics(sorted(found), paletteOf(io.colors), io.columns)}\n`);
  if (!chain || !inputs || hasErrors(found)) {
    io.exit.err(`${tally(found)}; ${nothing}\n`);
    return undefined;
  }
  return { workspace, chain, context: buildingFrame({ workspace, chain, used, at, inputs, secrets, host }, io) };
}
