import type { Source } from '../diagnostics/source.ts';
import type { Expression } from '../schema/leaves.ts';
import type { TextTemplate, ValueTemplate } from '../template/template.ts';
import type { Value } from '../value/value.ts';

/** What must hold of a response, or of the value `of` names, and why if the file says so. Each form is a file in `chain/steps/expect/`. */
export type Expectation = Readonly<{ because: string | undefined }> &
  (
    | Readonly<{ form: 'that'; expression: Expression }>
    | Readonly<{ form: 'schema'; schema: SchemaSource; source: Source; of?: Expression | undefined }>
    | Readonly<{ form: 'includes'; value: ValueTemplate; source: Source; of?: Expression | undefined }>
    | Readonly<{
        form: 'equals';
        /** The name of a file that holds it, or the value itself. */
        wanted: Readonly<{ file: TextTemplate }> | Readonly<{ value: ValueTemplate }>;
        except: readonly Expression[];
        source: Source;
        of?: Expression | undefined;
      }>
  );

/** A JSON Schema: the name of a file, or the schema itself. */
type SchemaSource = Readonly<{ file: Source }> | Readonly<{ inline: Value }>;
