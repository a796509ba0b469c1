import { named, value, word, type Named } from '../../schema/leaves.ts';
import { mapping } from '../../schema/shape.ts';
import { fillJson, fillText } from '../../template/fill.ts';
import { text } from '../../schema/leaves.ts';
import { textsOf, type TextTemplate, type ValueTemplate } from '../../template/template.ts';
import type { BodyKind } from './definition.ts';

type Graphql = Readonly<{
  query: string;
  variables: Named<ValueTemplate>;
  operation: TextTemplate | undefined;
}>;

/** A GraphQL request as GraphQL over HTTP sends it: one JSON object. Braces of the query are GraphQL's own. */
export const graphql: BodyKind<Graphql> = {
  key: 'graphql',
  schema: mapping({
    query: word('a GraphQL document').describe('The GraphQL document; its braces are never placeholders.'),
    variables: named(value()).optional().describe('Values of its variables, by name.'),
    operation: text('the name of an operation').optional().describe('The operation of the document to run.'),
  })
    .transform(({ query, variables, operation }): Graphql => ({
      query: query.text,
      variables: variables ?? [],
      operation,
    }))
    .describe('A GraphQL query or mutation with its variables.'),
  type: () => 'application/json',
  texts: ({ variables, operation }) => [
    ...variables.flatMap((entry) => textsOf(entry.value)),
    ...(operation ? [operation] : []),
  ],
  effect: ({ query, operation }) => {
    const sort = operationOf(query, operation?.source.text);
    return sort === undefined ? undefined : sort === 'query' ? 'reads' : 'changes';
  },
  build: ({ query, variables, operation }, resolver) => {
    const filled = variables.map((entry): [string, ValueTemplate] => [entry.name, entry.value]);
    const members = [
      `"query":${JSON.stringify(query)}`,
      ...(variables.length > 0 ? [`"variables":${fillJson({ kind: 'object', members: filled }, resolver)}`] : []),
      ...(operation ? [`"operationName":${JSON.stringify(fillText(operation, resolver))}`] : []),
    ];
    return `{${members.join(',')}}`;
  },
};

/** The sort of the operation that a document asks for (GraphQL section 2.3); `{ ... }` alone is a query. */
function operationOf(document: string, name: string | undefined): 'query' | 'mutation' | 'subscription' | undefined {
  // Comments and texts may hold any words and braces.
  const plain = document.replace(/"""[\s\S]*?"""|"(?:[^"\\\n]|\\.)*"|#[^\n]*/g, ' ');
  const found = definitionsIn(plain);
  return (name === undefined ? found[0] : found.find((each) => each.name === name))?.sort;
}

type Operation = Readonly<{ sort: 'query' | 'mutation' | 'subscription'; name: string | undefined }>;

/** The operations that stand at the top; a fragment is none. */
function definitionsIn(plain: string): readonly Operation[] {
  const found: Operation[] = [];
  let depth = 0;
  let isNamed = false;
  for (const { 0: token, index } of plain.matchAll(/[{}]|[A-Za-z_]\w*/g)) {
    const isOutside = depth === 0 && !isNamed;
    if (token === '{') depth++;
    else if (token === '}') isNamed &&= --depth > 0;
    else isNamed ||= depth === 0;
    if (!isOutside) continue;
    if (token === '{') found.push({ sort: 'query', name: undefined });
    else if (isSort(token)) found.push({ sort: token, name: nameAt(plain, index + token.length) });
  }
  return found;
}

function isSort(word: string): word is Operation['sort'] {
  return word === 'query' || word === 'mutation' || word === 'subscription';
}

function nameAt(plain: string, at: number): string | undefined {
  return /^\s*([A-Za-z_]\w*)/.exec(plain.slice(at))?.[1];
}
