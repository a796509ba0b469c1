import { chainInput } from '../chain/chain-file.ts';
import { projectInput } from '../chain/project-file.ts';
import type { JsonSchema } from '../schema/input.ts';

const DIALECT = 'https://json-schema.org/draft/2020-12/schema';

export const SCHEMA_KINDS = ['chain', 'project'] as const;
export type SchemaKind = (typeof SCHEMA_KINDS)[number];

/** The JSON Schema (2020-12) of one of the two files, made of what reads it. */
export function fileSchema(kind: SchemaKind): JsonSchema {
  return kind === 'chain'
    ? { $schema: DIALECT, title: 'Batharon chain file', ...chainInput() }
    : { $schema: DIALECT, title: 'Batharon project file', ...projectInput() };
}

/** Both files in one schema: whichever fits. */
export function bothSchemas(): JsonSchema {
  const { $defs, ...chain } = fileSchema('chain');
  return { $schema: DIALECT, title: 'Batharon file', anyOf: [chain, fileSchema('project')], $defs };
}
