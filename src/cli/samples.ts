import { existsSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { draftForms, formOf } from '../core/draft/list.ts';
import type { ReadOptions, Sample } from '../core/draft/definition.ts';
import { holdsMarks } from '../core/draft/marks.ts';
import { endpointOfUrl } from '../core/chain/endpoints.ts';
import { CommandError } from '../runner/command-error.ts';
import type { Workspace } from '../runner/workspace.ts';
import type { Io } from './io.ts';

/** How samples of the command line are read. */
export type SampleOptions = Omit<ReadOptions, 'isPlain'> & Readonly<{ from?: string | undefined }>;

/** The samples of a text; which form they have, and what has no counterpart, is said. Throws `CommandError`. */
export function readSamples(text: string, options: SampleOptions, workspace: Workspace, io: Io): readonly Sample[] {
  const form = formOf(text, options.from);
  if (!form) {
    const known = draftForms.map(({ what }) => `a ${what}`).join(', ');
    const advice = `Name its form with --from: ${draftForms.map(({ name }) => name).join(', ')}.`;
    throw new CommandError('invalid-option', `This sample is none of the forms that are recognised: ${known}`, advice);
  }
  if (holdsMarks(text))
    throw new CommandError(
      'invalid-option',
      'This sample has characters for private use (U+E000, U+E001)',
      'Remove them.',
    );
  const read = form.read(text, { ...options, isPlain: (host) => isPlainHost(host, workspace) });
  if ('message' in read)
    throw new CommandError('invalid-option', `This ${form.what} cannot be read: ${read.message}`, read.advice);
  for (const { request } of read.samples)
    if (!URL.canParse(request.url)) throw new CommandError('invalid-target', `"${request.url}" is not a URL`);
  for (const note of read.notes) io.exit.err(`note: ${note}\n`);
  return read.samples;
}

/** Whether an api of the project is spoken to at a host without TLS. */
function isPlainHost(host: string, { project }: Workspace): boolean {
  const endpoints = project?.apis.flatMap(({ endpoints: all }) => all) ?? [];
  return endpoints.some(({ url }) => url.source.text.toLowerCase().startsWith(`http://${host.toLowerCase()}`));
}

/** An argument with a space in it is a sample, any other the name of a file; without one standard input is read. */
export async function textOfSample(given: string | true | undefined, io: Io): Promise<string> {
  if (given === undefined || given === true || given === '-') return io.readInput();
  if (/\s/.test(given)) return given;
  const file = path.resolve(io.cwd, given);
  if (existsSync(file)) return readFileSync(file, 'utf8');
  throw new CommandError(
    'file-not-found',
    `The file ${given} does not exist`,
    'A sample is put in quotes, as one argument.',
  );
}

/** The api of a project that a URL belongs to, and the path under its URL. */
type ApiOfUrl = Readonly<{ api: string; path: string }>;

export function apiOf({ project }: Workspace, url: string): ApiOfUrl | undefined {
  const all = (project?.apis ?? []).flatMap(({ endpoints }) => endpoints);
  const best = endpointOfUrl(url, all);
  return best && { api: best.endpoint.api, path: best.path };
}

/** A name for the api at a host: `harbour` of `api.harbour.example`. */
export function apiName(url: string): string {
  const { hostname } = new URL(url);
  if (/^[0-9.]+$|^\[|^localhost$/.test(hostname)) return 'api';
  const parts = hostname.split('.').filter((part) => !/^(?:www|api|sandbox|test|dev|staging|v\d+)$/i.test(part));
  return (parts.at(-2) ?? parts[0] ?? 'api').replace(/[^A-Za-z0-9_]+/g, '_').replace(/^(?=\d)/, '_');
}
