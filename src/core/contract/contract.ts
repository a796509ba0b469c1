import { compilePlain, type Misfit } from '../schema/json-schemas.ts';
import { toPlain } from '../value/plain.ts';
import type { Value } from '../value/value.ts';
import type { Description } from './description.ts';
import { DescriptionFault, type Placed, type PlaceInFile } from './documents.ts';
import { OperationIndex } from './find-operation.ts';
import { pointerKeys, pointerPart } from '../value/json-pointer.ts';
import { closedSchema, type Side } from './schema-closure.ts';

/** A place where a value does not fit the schema that a description has for it. */
export type Unfit = Readonly<{ pointer: string; message: string; at: PlaceInFile }>;

type Validate = (value: unknown) => readonly Unfit[];

/** A description in use: what of it is asked for is compiled once and kept. */
export class Contract {
  readonly index: OperationIndex;
  private readonly validators = new Map<string, Validate>();

  constructor(readonly description: Description) {
    this.index = new OperationIndex(description);
  }

  /** What does not fit of a JSON value. Throws `DescriptionFault` where the schema cannot be used. */
  unfit(value: unknown, schema: Placed, side: Side): readonly Unfit[] {
    const key = `${side} ${schema.file}#${schema.pointer}`;
    let validate = this.validators.get(key);
    if (!validate) this.validators.set(key, (validate = this.compiled(schema, side)));
    return validate(value);
  }

  private compiled(from: Placed, side: Side): Validate {
    const { documents, isOld } = this.description;
    const { schema, places } = closedSchema(from, documents, side, isOld);
    const compiled = compilePlain(schema);
    if ('message' in compiled) throw new DescriptionFault(from, `This schema cannot be used: ${compiled.message}`);
    return (value) => {
      // A number that is kept exactly is no number to the validator: what does not fit is looked at again in plain form.
      const misfits = compiled.misfits(value);
      const all = misfits.length === 0 ? misfits : compiled.misfits(toPlain(value as Value));
      return all.map((misfit) => placedMisfit(misfit, places, from));
    };
  }

  /** `openapi/vessels.yaml:41`. */
  placeText(at: PlaceInFile): string {
    const line = this.description.documents.lineOf(at);
    return line === undefined ? at.file : `${at.file}:${line}`;
  }
}

/** A misfit with the place of its keyword in the description. */
function placedMisfit(
  { pointer, schemaPointer, message }: Misfit,
  places: ReadonlyMap<string, Placed>,
  from: Placed,
): Unfit {
  const [, name = '', ...rest] = pointerKeys(schemaPointer.slice(schemaPointer.indexOf('#') + 1));
  const base = places.get(name) ?? from;
  return { pointer, message, at: { file: base.file, pointer: base.pointer + rest.map(pointerPart).join('') } };
}
