import path from 'node:path';
import { existsSync, readFileSync } from 'node:fs';
import { stringify } from 'yaml';
import { chainsOfWorkflows, type WorkflowChain } from '../core/draft/arazzo/read.ts';
import { operationOf, sourcesOf } from '../core/draft/arazzo/sources.ts';
import { minimalDescription } from '../core/draft/arazzo/minimal-description.ts';
import { documentOf } from '../core/draft/arazzo/write.ts';
import type { Endpoint } from '../core/http/endpoint.ts';
import { draftOfOperations } from '../core/draft/openapi.ts';
import type { Draft } from '../core/draft/draft.ts';
import type { Contract } from '../core/contract/contract.ts';
import { DescriptionFault, Documents } from '../core/contract/documents.ts';
import { splitUrl } from '../core/http/message.ts';
import { shownUrl } from '../core/http/shown-request.ts';
import { hasErrors } from '../core/diagnostics/source.ts';
import { CommandError } from '../runner/command-error.ts';
import { contractsIn } from '../runner/contracts.ts';
import { AS_WRITTEN, readAt } from '../runner/deployments.ts';
import { loadChain, openProject, openWorkspace, type Workspace } from '../runner/workspace.ts';
import { endpointsOf } from '../core/chain/endpoints.ts';
import { descriptionAt, operationsAround, type DescribedOptions } from './described.ts';
import type { Io } from './io.ts';
import { writeDraft } from './write-draft.ts';

/** Whether a text is a document of workflows: its first keys say so. */
export function isArazzo(text: string): boolean {
  return /^\s*["']?arazzo["']?\s*:/m.test(text.slice(0, 4000)) || /^\s*\{\s*"arazzo"\s*:/.test(text.slice(0, 4000));
}

/** Writes a chain for each workflow of a document; what has no counterpart is listed, and stands there as a comment. */
export function draftWorkflows(file: string, options: DescribedOptions, io: Io): void {
  try {
    writeWorkflows(file, options, io);
  } catch (error) {
    if (!(error instanceof DescriptionFault)) throw error;
    throw new CommandError('invalid-contract', `${error.at.file}: ${error.message}`, error.advice);
  }
}

function writeWorkflows(file: string, options: DescribedOptions, io: Io): void {
  const documents = new Documents((name) => {
    const full = path.resolve(io.cwd, name);
    return existsSync(full) ? { bytes: readFileSync(full) } : { message: `The file ${name} does not exist` };
  });
  const root = documents.root(file);
  const contracts = contractsOf(file, sourcesOf(root), io);
  const [first] = contracts.values();
  if (!first)
    throw new CommandError(
      'invalid-contract',
      `${file} names no OpenAPI description that is here`,
      'Put it next to the file.',
    );
  const chains = chainsOfWorkflows(root, documents, (step) => operationOf(step, contracts));
  if (options.into !== undefined && chains.length > 1)
    throw new CommandError('invalid-option', `--into is for one workflow, and ${file} has ${chains.length}`);
  for (const chain of chains) {
    const into = options.into ?? `chains/${chain.name}.chain.yaml`;
    const workspace = openWorkspace(io.cwd);
    writeDraft(draftOfChain(chain, first, into, options, workspace, io), into, workspace, io);
  }
}

function contractsOf(file: string, sources: ReturnType<typeof sourcesOf>, io: Io): ReadonlyMap<string, Contract> {
  const found = new Map<string, Contract>();
  for (const { name, url, type } of sources) {
    const isHere = type === 'openapi' && !/^[a-z][a-z0-9+.-]*:/i.test(url);
    if (isHere) found.set(name, descriptionAt(path.join(path.dirname(file), url), io));
    else io.exit.err(`note: the source ${name} (${type}, ${url}) is not read\n`);
  }
  return found;
}

function draftOfChain(
  chain: WorkflowChain,
  contract: Contract,
  into: string,
  options: DescribedOptions,
  workspace: Workspace,
  io: Io,
): Draft {
  const around = operationsAround(contract, into, options, workspace, io);
  const base = draftOfOperations(contract, [], around);
  if ('message' in base) throw new CommandError('invalid-target', base.message, base.advice);
  return {
    ...base,
    calls: chain.steps.map(({ name, lines }) => ({ name, api: base.api!, lines })),
    inputs: chain.inputs,
    about: chain.about,
    outputs: chain.outputs,
    report: [...base.report, ...chain.notes.map((note) => `no counterpart: ${note}`)],
  };
}

/** Prints a chain as a document of workflows; without a description of its API one is written that names its calls. */
export function exportWorkflow(chainFile: string, io: Io): void {
  const workspace = openProject(io.cwd);
  const at = readAt(AS_WRITTEN, io.environment, workspace.project);
  const { chain, diagnostics } = loadChain(workspace, chainFile, at);
  if (!chain || hasErrors(diagnostics.filter(({ code }) => code !== 'secret-missing'))) {
    const advice = `To see what is wrong with it: batharon check ${chainFile}`;
    throw new CommandError('invalid-option', `${chainFile} has errors`, advice);
  }
  const endpoint = endpointsOf(workspace.project, at)(chain);
  const described = describedBy(endpoint, chainFile, workspace, io);
  const { document, notes } = documentOf(chain, described);
  if (!described.contract)
    writeDescription(described.url, minimalDescription(chain, endpoint ? shownUrl(endpoint) : '/'), io);
  for (const note of notes) io.exit.err(`no counterpart: ${note}\n`);
  const comments = notes.map((note) => `# no counterpart: ${note.replace(/\s+/g, ' ')}\n`);
  io.exit.out(`${comments.join('')}${stringify(document, { lineWidth: 0, version: '1.1' })}`);
}

/** The description that the API of a chain is held to; else the name of one to be written beside the document. */
function describedBy(endpoint: Endpoint | undefined, chainFile: string, { folder }: Workspace, io: Io) {
  const use = endpoint?.contract;
  const found = use && contractsIn(folder)(use.file.text);
  const contract = found && !('message' in found) ? found : undefined;
  const own = `${path.basename(chainFile).replace(/\.chain\.ya?ml$/, '')}.openapi.json`;
  const url =
    use && contract ? path.relative(io.cwd, path.resolve(folder, use.file.text)).split(path.sep).join('/') : own;
  const name = (endpoint?.api ?? 'api').replace(/[^A-Za-z0-9_-]/g, '-');
  return { name, url, contract, base: endpoint ? splitUrl(shownUrl(endpoint)).path : '' };
}

function writeDescription(file: string, description: object, io: Io): void {
  const text = `${JSON.stringify(description, null, 2)}\n`;
  const full = path.resolve(io.cwd, file);
  if (existsSync(full)) io.exit.rewriteFile(full, text);
  else io.exit.writeFile(full, text, 0o644);
  io.exit.err(`wrote   ${file}, which describes the calls\n`);
}
