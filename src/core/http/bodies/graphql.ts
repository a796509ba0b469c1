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
  let depth = 0;
  const found: { sort: 'query' | 'mutation' | 'subscription'; name: string | undefined }[] = [];
  let isNamed = false;
  for (const { 0: token, index } of plain.matchAll(/[{}]|[A-Za-z_]\w*/g)) {
    if (token === '{') {
      if (depth === 0 && !isNamed) found.push({ sort: 'query', name: undefined });
      depth++;
    } else if (token === '}') {
      depth--;
      if (depth === 0) isNamed = false;
    } else if (depth === 0 && !isNamed) {
      isNamed = true;
      if (token !== 'query' && token !== 'mutation' && token !== 'subscription') continue;
      found.push({ sort: token, name: /^\s*([A-Za-z_]\w*)/.exec(plain.slice(index + token.length))?.[1] });
    }
  }
  return (name === undefined ? found[0] : found.find((each) => each.name === name))?.sort;
}
