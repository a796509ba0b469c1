import type * as z from 'zod';
import { chainShapes } from '../chain/chain-file.ts';
import { projectShapes } from '../chain/project-file.ts';
import { schemaOfStep, stepReaders } from '../chain/steps/list.ts';
import { expectationForms, schemaOfForm } from '../chain/steps/expect/list.ts';
import { timeoutShape } from '../chain/timeout.ts';
import { authShapes } from '../http/auth/list.ts';
import { inputOf, shapeOf } from '../schema/input.ts';
import type { Page, PageGroup } from './page.ts';

/** A mapping of a file, and its keys. */
type Mapping = Readonly<{ heading: string; about: string | undefined; schema: z.ZodType }>;

function mappings(): readonly Mapping[] {
  return [
    { heading: 'The project file', about: undefined, schema: projectShapes.project },
    { heading: 'An API', about: undefined, schema: projectShapes.api },
    { heading: 'A deployment', about: undefined, schema: projectShapes.deployment },
    ...authShapes.map(({ heading, schema }) => ({ heading, about: undefined, schema })),
    { heading: 'timeout', about: undefined, schema: timeoutShape },
    { heading: 'A chain file', about: undefined, schema: chainShapes.chain },
    { heading: 'An input', about: undefined, schema: chainShapes.input },
    ...stepReaders.map((reader) => ({
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
}

/** Every key of both files, mapping by mapping. */
export function keyGroups(): readonly PageGroup[] {
  return mappings().map(({ heading, about, schema }) => ({
    heading,
    pages: Object.entries(shapeOf(schema)).map(([name, each]): Page => {
      const { what, json } = inputOf(each);
      const { description } = json as { description?: string };
      const required = each._zod.def.type !== 'optional';
      return {
        name,
        kind: 'key',
        heading: name,
        paragraphs: [
          ...(description === undefined ? [] : [description]),
          ...(about !== undefined && required ? [about] : []),
        ],
        rows: [
          { label: 'where', text: lowered(heading) },
          { label: 'inputs', text: what },
          { label: 'needed', text: required ? 'always' : 'no' },
        ],
        example: undefined,
      };
    }),
  }));
}

/** A heading in the middle of a line: names of keys stay as they are. */
function lowered(heading: string): string {
  return heading.replace(/^(The|An?) /, (word) => word.toLowerCase());
}
