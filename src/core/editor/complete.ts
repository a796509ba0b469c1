import { chainInput } from '../chain/chain-file.ts';
import { projectInput } from '../chain/project-file.ts';
import type { SourceFile } from '../diagnostics/source.ts';
import type { ChainPieces } from './chain-pieces.ts';
import { completeExpressions } from './complete-expressions.ts';
import { completeFiles } from './complete-files.ts';
import { completeKeys } from './complete-keys.ts';
import { completeRequests } from './complete-requests.ts';
import { completeWords } from './complete-words.ts';
import type { Completer, Completion } from './completion.ts';
import { cursorAt } from './cursor.ts';
import { Fields } from './fields.ts';
import type { FileSurroundings } from './surroundings.ts';

/** All that completes; what begins as it is written comes first in an editor. */
const completers: readonly Completer[] = [
  completeKeys,
  completeWords,
  completeFiles,
  completeRequests,
  completeExpressions,
];

const known = new Map<'chain' | 'project', Fields>();

/** The keys of a file of a kind; worked out once. */
export function fieldsOf(kind: 'chain' | 'project'): Fields {
  let fields = known.get(kind);
  if (!fields) known.set(kind, (fields = new Fields(kind === 'chain' ? chainInput() : projectInput())));
  return fields;
}

/** What may be written at an offset of a file, however incomplete the file is. Never throws for what is in it. */
export function completionsAt(
  file: SourceFile,
  offset: number,
  kind: 'chain' | 'project',
  pieces: ChainPieces,
  around: FileSurroundings,
): readonly Completion[] {
  const cursor = cursorAt(file.text, offset);
  const fields = fieldsOf(kind);
  const schemas = fields.at(cursor);
  const editing = { file, kind, cursor, fields, schemas, pieces, around };
  const found = completers.flatMap((complete) => complete(editing));
  return [...new Map(found.map((each) => [`${each.sort} ${each.label}`, each])).values()];
}
