import type { Problem, Range } from '../diagnostics/problem.ts';
import { diagnosticIn, type Diagnostic, type Source } from '../diagnostics/source.ts';
import { textsOf, type TextTemplate } from '../template/template.ts';
import type { Node } from '../expression/model.ts';
import type { Endpoint } from '../http/endpoint.ts';
import type { Chain } from './model.ts';
import { eachNode, walkChain } from './walk.ts';

/** A secret that a file asks for, and where. */
type SecretAsked = Readonly<{ name: string; source: Source; range: Range }>;

/** Every `secret.NAME` of chains, of the endpoints that they use, and of further texts of the project, in order of place. */
export function secretsAsked(
  chains: readonly Chain[],
  endpoints: readonly Endpoint[],
  texts: readonly TextTemplate[] = [],
): readonly SecretAsked[] {
  const asked: SecretAsked[] = [];
  const look = (tree: Node, source: Source) => asked.push(...secretsIn(tree, source));
  // Most chains name no secret, and then there is nothing to walk through them for.
  for (const chain of chains) {
    if (chain.file.text.includes('secret')) walkChain(chain, { endpointOf: () => undefined }, [{ expression: look }]);
  }
  for (const { pieces } of [...endpoints.flatMap(textsOfEndpoint), ...texts]) {
    for (const piece of pieces) if (typeof piece !== 'string') look(piece.node, piece.source);
  }
  return asked;
}

/** Every text of an endpoint that may have placeholders. */
export function textsOfEndpoint({ url, headers, query, auth, connection }: Endpoint): readonly TextTemplate[] {
  const { ca, cert, key, proxy, connectTo, unix } = connection;
  return [
    url,
    ...[...headers, ...query].flatMap(({ value }) => textsOf(value)),
    ...(auth?.texts ?? []),
    ...[ca, cert, key, proxy, connectTo, unix].filter((text) => text !== undefined),
  ];
}

/** The names of the secrets that texts ask for. */
export function secretsInTexts(texts: readonly TextTemplate[]): readonly string[] {
  return texts.flatMap(({ pieces }) =>
    pieces.flatMap((piece) =>
      typeof piece === 'string' ? [] : secretsIn(piece.node, piece.source).map(({ name }) => name),
    ),
  );
}

function secretsIn(tree: Node, source: Source): readonly SecretAsked[] {
  const found: SecretAsked[] = [];
  eachNode(tree, (node) => {
    if (node.kind !== 'path' || node.start.kind !== 'name' || node.start.name !== 'secret') return;
    const selector = node.segments[0]?.selectors[0];
    if (selector?.kind === 'name') found.push({ name: selector.name, source, range: node.range });
  });
  return found;
}

/** Where secrets are found: their values, the places in words, and whether a value is one that stands in ordinary text. */
type SecretsFound = Readonly<{
  find(name: string): string | undefined;
  /** Whether a command gives it when it is needed. */
  isFromCommand(name: string): boolean;
  places: readonly string[];
  isCommon(value: string): boolean;
}>;

/** What is wrong with the secrets that were found: missing ones all in one, and values that can be no secret. */
export function checkSecrets(
  asked: readonly SecretAsked[],
  { find, isFromCommand, places, isCommon }: SecretsFound,
): readonly Diagnostic[] {
  const names = [...new Set(asked.map(({ name }) => name))];
  const firstOf = (name: string) => asked.find((each) => each.name === name)!;
  const diagnostics: Diagnostic[] = [];
  const missing = names.filter((name) => find(name) === undefined && !isFromCommand(name));
  if (missing[0] !== undefined) {
    const { source, range } = firstOf(missing[0]);
    const what =
      missing.length === 1
        ? `The secret ${missing[0]} was not found`
        : `${missing.length} secrets were not found: ${missing.join(', ')}`;
    const where = missing.length === 1 ? 'it' : 'them';
    const advice = `Put ${where} into secrets.env next to batharon.yaml as ${missing[0]}=value, or into the environment.`;
    diagnostics.push(
      diagnosticIn(source, { code: 'secret-missing', range, message: `${what} in ${places.join(' or ')}`, advice }),
    );
  }
  for (const name of names) {
    const value = find(name);
    if (value === undefined) continue;
    const { source, range } = firstOf(name);
    const wrong = wrongValue(name, value, isCommon);
    if (wrong) diagnostics.push(diagnosticIn(source, { ...wrong, range }));
  }
  return diagnostics;
}

/** Why a value cannot be a secret, or cannot be masked everywhere. */
function wrongValue(
  name: string,
  value: string,
  isCommon: SecretsFound['isCommon'],
): Omit<Problem, 'range'> | undefined {
  if (/^(?:true|false|null|)$/.test(value)) {
    const what = value === '' ? 'is empty' : `is the word ${value}, which cannot be a secret`;
    const advice = 'Set its real value. Values that are not secret belong under settings.';
    return { code: 'not-a-secret', message: `The secret ${name} ${what}`, advice };
  }
  const advice = 'It is masked where it is sent and where it is a whole value.';
  if (value.length < 6) {
    const message = `The secret ${name} has fewer than 6 characters, too few to be masked inside other text`;
    return { code: 'secret-too-short', message, advice };
  }
  if (!isCommon(value)) return undefined;
  const message = `The secret ${name} is an ordinary word, or stands in the files of the project, and is not masked inside other text`;
  return { code: 'secret-is-common', message, advice: `${advice} Have the server issue a longer, random one.` };
}

/** Secrets that chains read of the environment although nothing in the project says that they are its own. */
export function checkDeclared(
  asked: readonly SecretAsked[],
  undeclared: (name: string) => boolean,
): readonly Diagnostic[] {
  const first = new Map(asked.map((each) => [each.name, each] as const).reverse());
  return [...first.values()]
    .filter(({ name }) => undeclared(name))
    .map(({ name, source, range }) => {
      const message = `The environment has ${name}, and the project does not declare it as a secret`;
      const advice = `If it is one of this project, add to batharon.yaml: secrets: {${name}: [API]}.`;
      return diagnosticIn(source, { code: 'secret-not-declared', range, message, advice });
    });
}
