import type * as z from 'zod';
import { chainShapes } from '../chain/chain-file.ts';
import { projectShapes } from '../chain/project-file.ts';
import { schemaOfStep, stepKinds } from '../chain/steps/list.ts';
import { expectationForms, schemaOfForm } from '../chain/steps/expect/list.ts';
import { authShapes } from '../http/auth/list.ts';
import { inputOf, mappingIn, shapeOf } from '../schema/input.ts';
import { callExamples } from './examples/call.ts';
import { chainExamples } from './examples/chain.ts';
import { expectationExamples } from './examples/expectation.ts';
import { projectExamples } from './examples/project.ts';
import type { Page, PageGroup } from './page.ts';

/** A mapping of a file, and its keys; `parent` of one that is the value of a key. */
type Mapping = Readonly<{ heading: string; about?: string; schema: z.ZodType; parent?: string }>;

function mappings(): readonly Mapping[] {
  const top: readonly Mapping[] = [
    { heading: 'The project file', schema: projectShapes.project },
    { heading: 'An API', schema: projectShapes.api },
    { heading: 'A deployment', schema: projectShapes.deployment },
    ...authShapes.map(({ heading, schema }) => ({ heading, schema, parent: heading.replace(/^auth: /, '') })),
    { heading: 'A chain file', schema: chainShapes.chain },
    { heading: 'An input', schema: chainShapes.input },
    ...stepKinds.map((reader) => ({
      heading: `The step ${reader.key}`,
      about: reader.about,
      schema: schemaOfStep(reader) as z.ZodType,
    })),
    ...expectationForms.map((form) => ({
      heading: `The expectation ${form.key}`,
      about: form.about,
      schema: schemaOfForm(form) as z.ZodType,
    })),
  ];
  // Keys that take a mapping, each told once wherever it occurs.
  const inner = new Map<string, Mapping>();
  const known = new Set(authShapes.map(({ heading }) => heading.replace(/^auth: /, '')));
  for (let level = top; level.length > 0;) {
    const next = level.flatMap(({ schema }) =>
      Object.entries(shapeOf(schema)).flatMap(([key, each]): readonly Mapping[] => {
        const found = mappingIn(each);
        return found && !inner.has(key) && !known.has(key) ? [{ heading: key, schema: found, parent: key }] : [];
      }),
    );
    for (const each of next) inner.set(each.heading, each);
    level = next;
  }
  return [...top, ...inner.values()];
}

/** Every key of both files, mapping by mapping. */
export function keyGroups(): readonly PageGroup[] {
  const all = mappings();
  return all.map((mapping) => ({
    heading: mapping.heading,
    pages: Object.entries(shapeOf(mapping.schema)).map(([name, schema]) => pageOf(name, schema, mapping, all)),
  }));
}

const examplesOf = { ...chainExamples, ...callExamples, ...expectationExamples, ...projectExamples };

function pageOf(name: string, schema: z.ZodType, { heading, about, parent }: Mapping, all: readonly Mapping[]): Page {
  const { what, json } = inputOf(schema);
  const { description = '' } = json as { description?: string };
  const [, text = description, fallback] = /^(.*?)\s*Default: (.+?)\.$/s.exec(description) ?? [];
  const value = mappingIn(schema);
  const inner = value ? Object.keys(shapeOf(value)) : [];
  const required = schema._zod.def.type !== 'optional';
  const full = parent === undefined ? name : `${parent}.${name}`;
  return {
    name: full,
    kind: 'key',
    heading: full,
    paragraphs: [...(about !== undefined && required ? [about] : []), ...(text === '' ? [] : [text])],
    rows: [
      { label: 'in', text: parent === undefined ? lowered(heading) : placesOf(parent, all) },
      { label: 'type', text: what },
      { label: 'required', text: required ? 'yes' : 'no' },
      ...(fallback === undefined ? [] : [{ label: 'default', text: fallback }]),
      ...(inner.length === 0 ? [] : [{ label: 'keys', text: inner.map((key) => `${name}.${key}`).join(', ') }]),
    ],
    example: exampleOf(name, heading),
  };
}

/** Where a key that takes a mapping occurs: `an API, a deployment, the step call`. */
function placesOf(key: string, all: readonly Mapping[]): string {
  const places = all.filter(({ schema }) => Object.hasOwn(shapeOf(schema), key)).map(({ heading }) => lowered(heading));
  return places.length === 0 ? lowered(key) : `${key} of ${places.join(', ')}`;
}

/** The first example of a mapping that has a key: on a line of its own, else inside a value. */
function exampleOf(name: string, heading: string): string | undefined {
  const examples = examplesOf[heading] ?? [];
  const key = `${name.replaceAll('-', '\\-')}:`;
  const forms = [new RegExp(`^[\\s-]*${key}`, 'm'), new RegExp(`[\\s{,]${key}`)];
  return forms.flatMap((form) => examples.find((each) => form.test(each)) ?? [])[0];
}

/** A heading in the middle of a line: names of keys stay as they are. */
function lowered(heading: string): string {
  return heading.replace(/^(The|An?) /, (word) => word.toLowerCase());
}
