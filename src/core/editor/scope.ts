import type { CallStep } from '../chain/model.ts';
import type { Place } from '../chain/place.ts';
import { walkChain } from '../chain/walk.ts';
import type { JsonSchema } from '../schema/input.ts';
import type { Editing } from './completion.ts';
import { holdsOf, type Fields } from './fields.ts';

/** Stands for what is being written; nobody has a name or a member like it. */
const MARK = 'batharon_cursor';

/** What is known where an expression is being written: the names there, and the call whose response it may read. */
export type Scope = Readonly<{ place: Place; call: CallStep | undefined }>;

/**
 * The scope of an expression that begins at an offset. The piece around it is read as if it ended there; what follows in it
 * decides nothing. `undefined` where no model of it can be made.
 */
export function scopeAt(editing: Editing, start: number, isPlaceholder: boolean): Scope | undefined {
  const { file, cursor, pieces, around } = editing;
  const written = isPlaceholder ? `${MARK}}` : `$.${MARK}`;
  const behind = `${written}${cursor.quote === '|' ? '' : cursor.closers}\n${missingKeys(editing)}`;
  const { chain, known } = pieces.at(file.path, file.text, start, (from) => file.text.slice(from, start) + behind);
  let call: CallStep | undefined;
  let found: Scope | undefined;
  walkChain(chain, { endpointOf: (each) => around.endpointOf(chain, each), known }, [
    {
      call: (step) => void (call = step),
      expression(_tree, source, place) {
        if (found || !source.text.includes(MARK)) return;
        // The names of a place are those of the moment.
        found = {
          place: { ...place, names: new Map(place.names) },
          call: call?.name === place.step ? call : undefined,
        };
      },
    },
  ]);
  return found;
}

/** Keys without which a step around the cursor is none, for those that are not written yet. */
function missingKeys({ cursor, fields }: Editing): string {
  const lines = cursor.around.toReversed().flatMap(({ path, keys, column }) => {
    if (column === undefined || path.length < 2) return [];
    const [schema] = fields.at({ path, around: cursor.around });
    const missing = schema ? fields.keysOf([schema]).filter(({ name, required }) => required && !keys.has(name)) : [];
    return missing.map(({ name, schema: own }) => `${' '.repeat(column)}${name}: ${fillerOf(own, fields)}\n`);
  });
  return lines.join('');
}

/** Something that a key takes. */
function fillerOf(schema: JsonSchema, fields: Fields): string {
  if (fields.takes(schema, 'array')) return '[]';
  if (fields.takes(schema, 'object')) return '{}';
  const [holds] = holdsOf([schema]);
  return holds === 'request-line' ? 'GET /' : holds === 'each-head' ? 'item in []' : 'null';
}
