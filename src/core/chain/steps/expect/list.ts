import * as z from 'zod';
import { expression } from '../../../schema/leaves.ts';
import { taking } from '../../../schema/input.ts';
import { placedOf } from '../../../schema/shape.ts';
import { entryOf, type Reading, type YamlMap } from '../../../yaml/tree.ts';
import type { Expectation } from '../../../http/expectation.ts';
import type { At, Part } from '../../parts.ts';
import { suggestKey } from '../../suggest-key.ts';
import type { ExpectationForm } from './definition.ts';
import { equals } from './equals.ts';
import { schema } from './schema.ts';
import { includes } from './includes.ts';
import { that } from './that.ts';

/** Every form of an expectation that is a mapping; a new one is a file here and one in the engine. */
export const expectationForms = [that, schema, includes, equals] as readonly ExpectationForm[];

const schemas = new Map<ExpectationForm, z.ZodType<Expectation>>();

/** The schema of a form, made when the first one is read. */
export function schemaOfForm(form: ExpectationForm): z.ZodType<Expectation> {
  let schema = schemas.get(form);
  if (!schema) schemas.set(form, (schema = form.schema()));
  return schema;
}

/** Keys that only add to a form. */
const PARTS: ReadonlySet<string> = new Set(['because', 'except']);

/** An expression that must be true, or one of the forms, known by its key; nothing for what is neither, which was reported. */
const expectation = () => {
  const condition = expression('an expression that must be true').transform((given): Expectation => ({
    form: 'that',
    expression: given,
    because: undefined,
  }));
  const reading = z.transform((projected: unknown, context): Expectation | undefined => {
    const at = placedOf(projected);
    const form = expectationForms.find(({ key }) => entryOf(at.node, key));
    if (at.node.kind === 'map' && !form) {
      reportNoForm(at.node, at.reading);
      return undefined;
    }
    const parsed = (form ? schemaOfForm(form) : condition).safeParse(projected);
    if (parsed.success) return parsed.data;
    for (const issue of parsed.error.issues) context.issues.push({ ...issue, input: projected } as z.core.$ZodRawIssue);
    return z.NEVER;
  });
  return taking(reading, (input) => {
    const forms = expectationForms.map((form) => ({
      ...input(schemaOfForm(form)).json,
      title: form.key,
      description: form.about,
    }));
    return { what: 'a condition or one of the other forms', json: { anyOf: [input(condition).json, ...forms] } };
  });
};

function reportNoForm({ entries, range }: YamlMap, { report }: Reading): void {
  const keys = expectationForms.map(({ key }) => key);
  const otherwise = `An expectation is an expression, or has one of the keys ${keys.join(', ')}.`;
  const [first] = entries;
  if (!first) {
    const message = 'An empty expectation';
    report({ code: 'key-missing', range: [range[0], range[0] + 1], message, advice: otherwise });
    return;
  }
  const { advice = otherwise } = suggestKey(first.key, keys);
  const at = { range: first.keyRange, advice };
  if (PARTS.has(first.key)) {
    report({
      ...at,
      code: 'key-missing',
      message: `"${first.key}" cannot be used alone: the expectation is missing`,
    });
  } else {
    report({ ...at, code: 'unknown-key', message: `No form of expectation begins with "${first.key}"` });
  }
}

/** The list under `expect`. Every entry is tried, and all failures are shown. */
export const expectations = () =>
  z.array(expectation()).transform((list): readonly Expectation[] => list.filter((each) => each !== undefined));

/** An expectation as a part of its step. */
export function expectationPart(expectation: Expectation, at: At): Part {
  const form = expectationForms.find(({ key }) => key === expectation.form)!;
  return { sort: 'expectation', expectation, parts: form.parts(expectation, at), at };
}
