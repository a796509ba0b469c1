import type * as z from 'zod';
import type { Problem } from '../../diagnostics/problem.ts';
import { wholeOf, type Source } from '../../diagnostics/source.ts';
import type { FileRefused } from '../../expression/host.ts';
import type { Resolver } from '../../template/fill.ts';
import { plainTextOf, type NamedText, type TextTemplate, type ValueTemplate } from '../../template/template.ts';
import type { OpenedFile, RequestBody } from '../message.ts';

/** What building a body may ask of what is around it. */
export type BodyHost = Readonly<{
  /** Opens a file by its path relative to the chain file. */
  openFile(path: string): OpenedFile;
  /** Files that the command line named, as absolute paths. */
  namedFiles: ReadonlySet<string>;
  /** A text that stands in no body by chance; the same for every try of a call. */
  boundary: string;
}>;

/**
 * One kind of request body: one file, one entry in the list. `T` is what its key holds once read; of a kind with further
 * keys (`also`) it is `{main, ...}` with what each of them holds.
 */
export type BodyKind<T, Also extends string = never> = Readonly<{
  /** The key of a call. */
  key: string;
  schema: z.ZodType;
  /** Further keys of the call that go with it. */
  also?: Readonly<Record<Also, z.ZodType>>;
  /** Keys of a call, with a meaning of their own, that it reads as well. */
  reads?: readonly string[];
  /** The media type that is sent unless the call sets another. */
  type(value: T, boundary: string): string;
  texts(value: T): readonly TextTemplate[];
  /** Those of them that stand under names. */
  named?(value: T): readonly NamedText[];
  /** The value of a JSON body. */
  json?(value: T): ValueTemplate;
  /** Names of files that it reads, for the checks. */
  files?(value: T): readonly TextTemplate[];
  /** What is wrong with it beyond its shape. */
  problems?(value: T): readonly BodyProblem[];
  /** What is wrong with files whose names are known before anything is sent. */
  fileProblems?(value: T, host: BodyHost): readonly BodyProblem[];
  /** Whether it only reads or changes something, where that is not for the method to say. */
  effect?(value: T): Effect | undefined;
  /** Throws `FillFault`. */
  build(value: T, resolver: Resolver, host: BodyHost): RequestBody;
}>;

type Effect = 'reads' | 'changes';
export type BodyProblem = Readonly<{ source: Source; problem: Problem }>;

/** A kind with the value that a file gives it. */
export type Body = Readonly<{
  key: string;
  /** Where a call says another media type than the kind's own. */
  ownType: Source | undefined;
  texts: readonly TextTemplate[];
  named: readonly NamedText[];
  /** Its value, where it is JSON that stands in the chain. */
  json: ValueTemplate | undefined;
  /** Those of the texts that name files. */
  files: readonly TextTemplate[];
  problems: readonly BodyProblem[];
  fileProblems(host: BodyHost): readonly BodyProblem[];
  effect: Effect | undefined;
  type(boundary: string): string;
  build(resolver: Resolver, host: BodyHost): RequestBody;
}>;

export function bindBody<T>(kind: BodyKind<T, string>, value: T, ownType: Source | undefined): Body {
  const files = kind.files?.(value) ?? [];
  return {
    key: kind.key,
    ownType,
    texts: kind.texts(value),
    named: kind.named?.(value) ?? [],
    json: kind.json?.(value),
    files,
    problems: kind.problems?.(value) ?? [],
    fileProblems: (host) => [...missingFiles(files, host), ...(kind.fileProblems?.(value, host) ?? [])],
    effect: kind.effect?.(value),
    type: (boundary) => ownType?.text ?? kind.type(value, boundary),
    build: (resolver, host) => kind.build(value, resolver, host),
  };
}

/** Files that are not there, as far as their names are known. */
function missingFiles(names: readonly TextTemplate[], host: BodyHost): readonly BodyProblem[] {
  return names.flatMap((text) => {
    const name = plainTextOf(text);
    const file = name === undefined ? undefined : host.openFile(name);
    return !file || 'pieces' in file ? [] : [{ source: text.source, problem: refusedFile(file, text.source) }];
  });
}

/** Why a file cannot be part of a body, as a problem of the text that names it. */
export function refusedFile({ message, advice, code = 'file-not-found' }: FileRefused, source: Source): Problem {
  return { code, range: wholeOf(source), message, ...(advice ? { advice } : {}) };
}
