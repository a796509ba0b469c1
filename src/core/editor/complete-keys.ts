import type { Field } from './fields.ts';
import { wordRange, type Completer, type Completion, type Editing } from './completion.ts';
import { outputKeys, usedChain } from './used-chain.ts';

/** Keys of the mapping at the cursor that it does not have yet, and inputs of a chain that is used. */
export const completeKeys: Completer = (editing) => {
  const { cursor, fields, schemas } = editing;
  if (cursor.role === 'value' || cursor.quote !== '') return [];
  const written = keysWritten(editing);
  const named = fields.keysOf(schemas).filter(({ name }) => !written.has(name));
  return [...named.map((field) => keyCompletion(field, editing)), ...inputsOfUsed(editing, written)];
};

function keysWritten({ cursor, file: { text } }: Editing): ReadonlySet<string> {
  if (cursor.role === 'item') return new Set();
  const top = cursor.around.at(-1);
  const keys = new Set(top?.keys.keys());
  // The key that is being written is no other key.
  const end = /^[\w-]*/.exec(text.slice(cursor.offset))![0];
  keys.delete(cursor.text + end);
  return keys;
}

function keyCompletion({ name, about, required, schema }: Field, editing: Editing): Completion {
  const { cursor, fields } = editing;
  const range = wordRange(editing, cursor.start);
  const isBlock = cursor.closers === '';
  const isMapping = isBlock && fields.takes(schema, 'object') && !('enum' in schema);
  const behind = editing.file.text.slice(range[1]);
  const insert = /^\s*:/.test(behind) ? name : `${name}:${isMapping ? '' : ' '}`;
  return {
    label: name,
    sort: 'key',
    about,
    range,
    insert,
    rank: required ? 0 : 1,
    detail: required ? 'required' : undefined,
  };
}

/** Under `inputs` of a step that uses a chain: the inputs of that chain. Of names that it keeps: what it outputs. */
function inputsOfUsed(editing: Editing, written: ReadonlySet<string>): readonly Completion[] {
  const { cursor } = editing;
  const used = usedChain(editing);
  if (cursor.role !== 'key' || !used) return [];
  const range = wordRange(editing, cursor.start);
  if (cursor.path.at(-1) === 'keep') return outputKeys(used, written, range);
  if (cursor.path.at(-1) !== 'inputs') return [];
  return used.inputs
    .filter(({ name }) => !written.has(name))
    .map(({ name, type, about, optional, default: given }) => {
      const required = !optional && given === undefined;
      return { label: name, sort: 'key', detail: type, about, range, insert: `${name}: `, rank: required ? 0 : 1 };
    });
}
