import { RESPONSE_NAMES, type NameInfo } from '../chain/names.ts';
import { functions } from '../expression/functions/list.ts';
import type { FunctionDefinition } from '../expression/functions/definition.ts';
import { signatureOf } from '../reference/functions.ts';
import { nameAbout } from '../reference/names.ts';
import { wordRange, type Completer, type Completion, type Editing } from './completion.ts';
import { expressionAt } from './expression-at.ts';
import { tailOf, type Tail } from './expression-tail.ts';
import { membersOf } from './members.ts';
import { scopeAt, type Scope } from './scope.ts';

/** Names, members and functions in an expression, by itself or in a placeholder. */
export const completeExpressions: Completer = (editing) => {
  const found = expressionAt(editing);
  const tail = found && tailOf(found.text);
  if (!found || !tail) return [];
  const scope = editing.kind === 'chain' ? scopeAt(editing, found.start, found.isPlaceholder) : undefined;
  const start = editing.cursor.offset - tail.word.length;
  if (tail.base) return membersOf(tail, scope, editing);
  return [...nameCompletions(scope, tail, start, editing), ...functionCompletions(start, scope, editing)];
};

function nameCompletions(scope: Scope | undefined, tail: Tail, start: number, editing: Editing): readonly Completion[] {
  const range = wordRange(editing, start, /\w/);
  const run = editing.around.lastRun();
  const place = scope?.place;
  const own = [...(place?.names ?? [])].map(([name, info]): Completion => ({
    label: name,
    sort: 'name',
    detail: wordsOf(info, run?.shown(name)),
    about: [info.by, ...info.under.map((text) => `only if ${text}`), run && `last run: ${run.when}`]
      .filter(Boolean)
      .join('; '),
    range,
    insert: name,
    rank: 0,
  }));
  const given = (names: readonly string[], rank = 1) =>
    names.map((name): Completion => ({ label: name, sort: 'name', about: nameAbout(name), range, insert: name, rank }));
  return [
    ...own,
    ...(place?.response ? given(['$', ...RESPONSE_NAMES.keys(), 'response']) : []),
    ...(tail.items.length > 0 ? given(['@'], 0) : []),
    ...given([...(place?.meanings ?? [])]),
    ...given(['secret', 'setting'], 2),
    ...(scope ? given(['remembered'], 2) : []),
  ];
}

function wordsOf({ kind, optional }: NameInfo, last: string | undefined): string {
  return [kind ?? 'value', ...(optional ? ['optional'] : []), ...(last === undefined ? [] : [`last ${last}`])].join(
    ', ',
  );
}

function functionCompletions(start: number, scope: Scope | undefined, editing: Editing): readonly Completion[] {
  const range = wordRange(editing, start, /\w/);
  const isCall = editing.file.text[range[1]] === '(';
  const fits = ({ ofResponse }: FunctionDefinition) => !ofResponse || scope?.place.response !== false;
  return functions.filter(fits).map((definition) => ({
    label: definition.name,
    sort: 'function',
    detail: signatureOf(definition),
    about: `${definition.about}\n\n\`${definition.example[0]}\` gives \`${definition.example[1]}\``,
    range,
    insert: isCall ? definition.name : `${definition.name}(`,
    rank: 3,
  }));
}
