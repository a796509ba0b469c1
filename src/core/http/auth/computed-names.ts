import * as z from 'zod';
import { inFile } from '../../diagnostics/source.ts';
import { namesRead } from '../../expression/names-read.ts';
import { isName } from '../../path/scanner.ts';
import { expression, named, type Expression, type Named, type NamedEntry } from '../../schema/leaves.ts';
import { taking } from '../../schema/input.ts';
import { placedOf } from '../../schema/shape.ts';
import { foundNothing, type Resolver } from '../../template/fill.ts';
import type { TextTemplate } from '../../template/template.ts';
import type { Value } from '../../value/value.ts';
import type { Reading } from '../../yaml/tree.ts';

/** Names that are computed for each request, in order: each text is the placeholder of its expression alone. */
export type ComputedNames = Named<TextTemplate>;

/** Names that stand for something else where these are read. */
const TAKEN = new Set(['secret', 'setting', 'request', 'outputs', 'true', 'false', 'null', 'in']);

/** Expressions by name, of which each may read those before it. */
export const computedNames = () =>
  taking(
    z.transform((projected: unknown, context): ComputedNames => {
      const parsed = named(expression()).safeParse(projected);
      if (!parsed.success) {
        for (const issue of parsed.error.issues)
          context.issues.push({ ...issue, path: [...issue.path], input: projected } as z.core.$ZodRawIssue);
        return z.NEVER;
      }
      const { reading } = placedOf(projected);
      parsed.data.forEach((entry, i) => examine(entry, parsed.data.slice(i), reading));
      return parsed.data.map((entry) => ({ ...entry, value: asText(entry.value) }));
    }),
    (input) => input(named(expression())),
  );

function examine(
  { name, nameRange: range, value: { tree, source } }: NamedEntry<Expression>,
  rest: Named<Expression>,
  reading: Reading,
): void {
  if (!isName(name)) {
    const message = `A name consists of letters, digits and _, which "${name}" does not`;
    reading.report({ code: 'invalid-name', range, message });
  } else if (TAKEN.has(name)) {
    reading.report({ code: 'reserved-name', range, message: `"${name}" is a reserved name` });
  }
  for (const late of rest.filter((each) => tree && namesRead(tree).includes(each.name))) {
    const message = `"${late.name}" is computed ${late.name === name ? 'here' : 'further down'}, and cannot be read yet`;
    const at = Math.max(0, source.text.search(new RegExp(`\\b${late.name}\\b`)));
    const place = {
      range: [at, at + late.name.length] as const,
      message,
      advice: 'Each name may read those above it.',
    };
    reading.report(inFile(source, { code: 'used-too-early', ...place }));
  }
}

function asText({ source, tree }: Expression): TextTemplate {
  const pieces = tree ? [{ range: [0, source.text.length] as const, node: tree, source }] : [];
  return { kind: 'text', source, pieces };
}

/** The names with their values, over names that are there already; each is computed once for a request. */
export function computed(
  names: ComputedNames,
  given: Readonly<Record<string, Value>>,
  withNames: (names: Readonly<Record<string, Value>>) => Resolver,
): Readonly<Record<string, Value>> {
  let known = given;
  for (const { name, value } of names) {
    const [placeholder] = value.pieces;
    if (placeholder === undefined || typeof placeholder === 'string') continue;
    const found = withNames(known).value(placeholder);
    if (found === undefined) foundNothing(placeholder);
    known = { ...known, [name]: found };
  }
  return known;
}
