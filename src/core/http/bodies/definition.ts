import type * as z from 'zod';
import type { Resolver } from '../../template/fill.ts';
import type { TextTemplate } from '../../template/template.ts';

/** One kind of request body: one file, one entry in the list. `T` is what its key holds once read. */
export type BodyKind<T> = Readonly<{
  /** The key of a call. */
  key: string;
  schema: z.ZodType<T>;
  /** The media type that is sent unless the call sets another. */
  type: string;
  texts(value: T): readonly TextTemplate[];
  build(value: T, resolver: Resolver): string;
}>;

/** A kind with the value that a file gives it. */
export type Body = Readonly<{
  key: string;
  type: string;
  texts: readonly TextTemplate[];
  build(resolver: Resolver): string;
}>;

export function bindBody<T>(kind: BodyKind<T>, value: T): Body {
  return { key: kind.key, type: kind.type, texts: kind.texts(value), build: (resolver) => kind.build(value, resolver) };
}
