import { diagnosticIn, sorted, wholeOf, type Diagnostic, type Source } from '../diagnostics/source.ts';
import type { Problem } from '../diagnostics/problem.ts';
import type { Node } from '../expression/model.ts';
import type { Endpoint } from '../http/endpoint.ts';
import { nearest } from '../diagnostics/suggest.ts';
import type { Project } from './project-file.ts';
import { textsOfEndpoint } from './secrets-asked.ts';
import { checkNamed } from './checks/credentials-are-secrets.ts';
import { looksLikeSecret } from './looks-like-secret.ts';
import { eachNode } from './walk.ts';

/** What is wrong with a project file beyond its shape: its holes, which see secrets and settings only, and its URLs. */
export function checkProject(project: Project): readonly Diagnostic[] {
  const found: Diagnostic[] = [];
  for (const endpoint of project.apis.flatMap(({ endpoints }) => endpoints)) {
    checkUrl(endpoint, found);
    checkCredentials(endpoint, found);
    for (const { pieces } of textsOfEndpoint(endpoint)) {
      for (const piece of pieces) if (typeof piece !== 'string') checkHole(piece.node, piece.source, endpoint, found);
    }
  }
  return sorted(found);
}

function checkHole(tree: Node, source: Source, { settings, deployment, api }: Endpoint, found: Diagnostic[]): void {
  eachNode(tree, (node) => {
    if (node.kind !== 'path' || node.start.kind === 'value' || node.start.kind === 'item') return;
    const name = node.start.kind === 'name' ? node.start.name : '$';
    if (name === 'secret') return;
    const range = node.range;
    if (name !== 'setting') {
      const message = `${name} means nothing in a project file`;
      found.push(
        diagnosticIn(source, {
          code: 'unknown-name',
          range,
          message,
          advice: 'Its holes read secret.NAME and setting.NAME.',
        }),
      );
      return;
    }
    const selector = node.segments[0]?.selectors[0];
    const wanted = selector?.kind === 'name' ? selector.name : '';
    if (Object.hasOwn(settings, wanted)) return;
    const near = nearest(wanted, Object.keys(settings));
    const where = deployment === undefined ? `The api ${api}` : `The deployment ${deployment} of ${api}`;
    const advice = near ? `Did you mean "${near}"?` : 'Add it under settings:.';
    found.push(
      diagnosticIn(source, { code: 'setting-missing', range, message: `${where} has no setting "${wanted}"`, advice }),
    );
  });
}

/** Credentials are secrets by name, and do not go over plain http but on this machine. */
function checkCredentials(
  { url, auth, headers, query, settings, settingSources }: Endpoint,
  found: Diagnostic[],
): void {
  const add = (source: Source, problem: Problem) => void found.push(diagnosticIn(source, problem));
  checkNamed([...headers, ...query], { reportIn: add });
  for (const { source, pieces } of auth?.texts ?? []) {
    if (pieces.length !== 1 || typeof pieces[0] !== 'string') continue;
    const advice = 'Put it into secrets.env as TOKEN=..., and write "{secret.TOKEN}" here.';
    add(source, { code: 'looks-like-secret', range: wholeOf(source), message: 'This looks like a credential', advice });
  }
  for (const { name, source } of settingSources) {
    const value = settings[name];
    if (typeof value !== 'string' || !looksLikeSecret(value, name)) continue;
    const advice = 'Settings are never masked: put it into secrets.env, and read it as secret.NAME.';
    add(source, { code: 'looks-like-secret', range: wholeOf(source), message: 'This looks like a credential', advice });
  }
  const [first] = url.pieces;
  if (!auth || typeof first !== 'string' || !/^http:\/\//.test(first) || LOOPBACK.test(first)) return;
  const message = 'Credentials would go over plain http, where everybody on the way can read them';
  add(url.source, {
    code: 'plain-http',
    range: wholeOf(url.source),
    message,
    advice: 'Write https:// if the server has it.',
  });
}

const LOOPBACK = /^http:\/\/(?:127\.\d+\.\d+\.\d+|localhost|\[::1\])(?:[:/]|$)/;

function checkUrl({ url }: Endpoint, found: Diagnostic[]): void {
  const { source, pieces } = url;
  if (source.text === '') return;
  const sample = pieces.map((piece) => (typeof piece === 'string' ? piece : 'x')).join('');
  const range = wholeOf(source);
  const add = (message: string, advice: string) =>
    found.push(diagnosticIn(source, { code: 'bad-target', range, message, advice }));
  if (!/^https?:\/\//.test(sample) || !URL.canParse(sample))
    add('This is no URL', 'A url begins with http:// or https:// and names a host.');
  else if (sample.includes('?') || sample.includes('#'))
    add('The url of an api has no query and no fragment', 'Put parameters of every request under query:.');
  else if (sample.endsWith('/')) add('The url of an api does not end in "/"', 'Leave it out: paths begin with one.');
}
