import * as z from 'zod';
import { expression } from '../../../schema/leaves.ts';
import { taking } from '../../../schema/input.ts';
import { mapping, placedOf } from '../../../schema/shape.ts';
import type { Expectation } from '../../model.ts';
import { suggestKey } from '../../suggest-key.ts';
import type { ExpectationForm } from './definition.ts';
import { equals } from './equals.ts';
import { fits } from './fits.ts';
import { includes } from './includes.ts';
import { that } from './that.ts';

/** Every form of an expectation that is a mapping; a new one is a file here and one in the engine. */
export const expectationForms: readonly ExpectationForm[] = [that, fits, includes, equals];

const schemas = new Map<ExpectationForm, z.ZodType<Expectation>>();

/** The schema of a form, made when the first one is read. */
export function schemaOfForm(form: ExpectationForm): z.ZodType<Expectation> {
  let schema = schemas.get(form);
  if (!schema) schemas.set(form, (schema = form.schema()));
  return schema;
}

/** Keys that only add to a form. */
const PARTS: ReadonlySet<string> = new Set(['because', 'except']);

/** An expression that must be true, or one of the forms, known by its key. */
const expectation = () => {
  const condition = expression('an expression that must be true');
  const none = mapping(Object.fromEntries(expectationForms.map(({ key }) => [key, z.any().optional()])));
  const schema = z.transform((projected: unknown, context): Expectation => {
    const { node, reading } = placedOf(projected);
    const form =
      node.kind === 'map'
        ? expectationForms.find(({ key }) => node.entries.some((entry) => entry.key === key))
        : undefined;
    const unknown = node.kind === 'map' && !form ? node.entries[0] : undefined;
    if (unknown) {
      const keys = expectationForms.map(({ key }) => key);
      const { advice = `An expectation is an expression, or has one of the keys ${keys.join(', ')}.` } = suggestKey(
        unknown.key,
        keys,
      );
      const message = `No form of expectation begins with "${unknown.key}"`;
      const isPart = PARTS.has(unknown.key);
      const told = isPart ? `"${unknown.key}" stands alone: what must hold is missing` : message;
      reading.report({ code: isPart ? 'key-missing' : 'unknown-key', range: unknown.keyRange, message: told, advice });
    }
    const schema = form ? schemaOfForm(form) : node.kind === 'map' ? none : condition;
    const parsed = schema.safeParse(projected);
    if (!parsed.success) {
      if (!unknown)
        for (const issue of parsed.error.issues)
          context.issues.push({ ...issue, input: projected } as z.core.$ZodRawIssue);
      return z.NEVER;
    }
    return form
      ? (parsed.data as Expectation)
      : {
          form: 'that',
          expression: parsed.data as Extract<Expectation, { form: 'that' }>['expression'],
          because: undefined,
        };
  });
  return taking(schema, (input) => {
    const forms = expectationForms.map((form) => ({
      ...input(schemaOfForm(form)).json,
      title: form.key,
      description: form.about,
    }));
    return { what: 'a condition or one of its forms', json: { anyOf: [input(condition).json, ...forms] } };
  });
};

/** The list under `expect`. Every entry is tried, and all failures are shown. */
export const expectations = () => z.array(expectation());
