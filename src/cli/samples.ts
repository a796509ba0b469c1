import { findProject } from '../adapters/project-files.ts';
import { draftForms, formOf } from '../core/draft/list.ts';
import type { DraftRequest } from '../core/draft/request.ts';
import { endpointOfUrl } from '../core/chain/endpoints.ts';
import type { Io } from './io.ts';
import { CommandError } from '../runner/command-error.ts';
import type { Workspace } from '../runner/workspace.ts';

/** A sample of the command line or of standard input, read; what has no counterpart is said. */
export async function readSample(
  given: string | true | undefined,
  from: string | undefined,
  io: Io,
): Promise<DraftRequest> {
  const text = typeof given === 'string' ? given : await io.readInput();
  const form = formOf(text, from);
  if (!form) {
    const known = draftForms.map(({ what }) => `a ${what}`).join(', ');
    throw new CommandError('invalid-option', `This sample is none of the forms that can be read: ${known}`);
  }
  const read = form.read(text);
  if ('message' in read)
    throw new CommandError('invalid-option', `This ${form.what} cannot be read: ${read.message}`, read.advice);
  for (const note of read.notes) io.exit.err(`note: ${note}\n`);
  return read.request;
}

/** The api of a project that a URL belongs to, and the path under its URL. */
type ApiOfUrl = Readonly<{ api: string; path: string }>;

export function apiOf({ project }: Workspace, url: string): ApiOfUrl | undefined {
  const all = (project?.apis ?? []).flatMap(({ endpoints }) => endpoints);
  const best = endpointOfUrl(url, all);
  return best && { api: best.endpoint.api, path: best.path };
}

/** A short name for what a request is about: the last part of its path that is a word. */
export function callName({ url, method }: Pick<DraftRequest, 'url' | 'method'>): string {
  const words = new URL(url).pathname.split('/').filter((part) => /^[A-Za-z][A-Za-z_-]*$/.test(part));
  return (words.at(-1) ?? method).toLowerCase();
}

/** A name for the api at a host: `harbour` of `api.harbour.example`. */
export function apiName(url: string): string {
  const { hostname } = new URL(url);
  if (/^[0-9.]+$|^\[|^localhost$/.test(hostname)) return 'api';
  const parts = hostname.split('.').filter((part) => !/^(?:www|api|sandbox|test|dev|staging|v\d+)$/i.test(part));
  return (parts.at(-2) ?? parts[0] ?? 'api').replace(/[^A-Za-z0-9_]+/g, '_').replace(/^(?=\d)/, '_');
}

/** The URL of the api behind a whole URL: its origin, and the path up to a version such as `/v1`. */
export function baseOf(url: string): string {
  const { origin, pathname } = new URL(url);
  return origin + (/^(?:\/[^/]+)*?\/v\d[^/]*(?=\/|$)/.exec(pathname)?.[0] ?? '');
}

export function isInProject(io: Io): boolean {
  return findProject(io.cwd) !== undefined;
}
