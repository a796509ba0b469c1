import { wordRange, type Completer, type Completion, type Editing } from './completion.ts';
import { holdsOf } from './fields.ts';

/** Words that a value may be: choices of a key, true and false, APIs, deployments. */
export const completeWords: Completer = (editing) => {
  const { cursor, fields, schemas, around } = editing;
  if (cursor.role === 'key' || cursor.quote === '|') return [];
  const apis = around.project?.apis ?? [];
  return [
    ...words(editing, fields.wordsOf(schemas), undefined),
    ...(holdsOf(schemas).has('api')
      ? words(
          editing,
          apis.map(({ name }) => name),
          'API',
        )
      : []),
    ...(cursor.path.at(-1) === 'default-deployment' ? words(editing, deploymentsOf(editing), 'deployment') : []),
  ];
};

function words(editing: Editing, all: readonly string[], detail: string | undefined): readonly Completion[] {
  const range = wordRange(editing, editing.cursor.start);
  const space = spaceBefore(editing);
  return all.map((label) => ({ label, sort: 'word', detail, range, insert: space + label, rank: 0 }));
}

/** A value needs a space behind the colon of its key. */
export function spaceBefore({ file: { text }, cursor }: Editing): string {
  return cursor.role === 'value' && cursor.quote === '' && /[\w"']:$/.test(text.slice(0, cursor.start)) ? ' ' : '';
}

function deploymentsOf({ cursor, around }: Editing): readonly string[] {
  const api = around.project?.apis.find(({ name }) => name === cursor.path[1]);
  return api?.endpoints.flatMap(({ deployment }) => deployment ?? []) ?? [];
}
