import type { Problem } from '../../diagnostics/problem.ts';
import { diagnosticIn, wholeOf, type Source } from '../../diagnostics/source.ts';
import { adviceOf } from '../../diagnostics/suggest.ts';
import { jsonValue, named, type NamedEntry } from '../../schema/leaves.ts';
import { FillFault, fillFileName, type Resolver } from '../../template/fill.ts';
import { plainTextOf, type TextTemplate, type ValueTemplate } from '../../template/template.ts';
import { utf8Text } from '../../value/utf8.ts';
import { joined, opened } from './assemble.ts';
import type { BodyHost, BodyProblem } from './definition.ts';

/** A file, and by place the values that stand in it instead of its own. */
export type FileWithSet = Readonly<{ main: TextTemplate; set?: readonly SetEntry[] }>;

/** A value, and under its name the path of what it replaces. */
export type SetEntry = NamedEntry<ValueTemplate>;

/** The key `set`, of every body that is a file with places in it. */
export const set = named(jsonValue()).describe(
  'Values to insert into the json-file or xml-file, by the path or XPath of what each replaces.',
);

/** The place of an entry's path; the text of a key is what stands in the file. */
export function sourceOf({ file, name, nameRange: [start] }: NamedEntry<unknown>): Source {
  return { file, text: name, locate: ([from, to]) => [start + from, start + to] };
}

export function foundNothing({ name }: NamedEntry<unknown>): string {
  return `${name} found nothing in the file`;
}

export function at(source: Source, code: Problem['code'], message: string, advice?: string): BodyProblem {
  return { source, problem: { code, range: wholeOf(source), message, ...adviceOf(advice) } };
}

/** Ends the building of the body. Throws `FillFault`. */
export function refuse(source: Source, code: Problem['code'], message: string, advice?: string): never {
  throw new FillFault(diagnosticIn(source, at(source, code, message, advice).problem));
}

/** The text of a file whose name is known before anything is sent, or what is wrong with it; nothing of one that is not there. */
export function plainFile(name: TextTemplate, host: BodyHost, otherwise: string): string | readonly BodyProblem[] {
  const plain = plainTextOf(name);
  const file = plain === undefined ? undefined : host.openFile(plain);
  if (!file || !('pieces' in file)) return [];
  return utf8Text(joined(file.pieces(), file.size)) ?? [at(name.source, 'not-utf8', otherwise)];
}

/** The text of a file. Throws `FillFault`: `otherwise` says of one that is not UTF-8. */
export function utf8File(
  name: TextTemplate,
  { resolver, host, otherwise }: Readonly<{ resolver: Resolver; host: BodyHost; otherwise: string }>,
): string {
  const file = opened(fillFileName(name, resolver, host.namedFiles), name.source, host);
  return utf8Text(joined(file.pieces(), file.size)) ?? refuse(name.source, 'not-utf8', otherwise);
}
