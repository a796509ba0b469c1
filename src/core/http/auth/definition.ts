import type * as z from 'zod';
import type { Resolver } from '../../template/fill.ts';
import type { TextTemplate } from '../../template/template.ts';

/** What a credential adds to a request. Its value is masked in every record, whatever it is. */
export type Credential = Readonly<{ place: 'header' | 'query' | 'cookie'; name: string; value: string }>;

/** One way to authenticate: one file, one entry in the list. `T` is what its key holds once read. */
export type AuthScheme<T> = Readonly<{
  /** The key under `auth`. */
  name: string;
  schema: z.ZodType<T>;
  /** The texts whose holes it fills, for the checks. */
  texts(value: T): readonly TextTemplate[];
  credentials(value: T, resolver: Resolver): readonly Credential[];
}>;

/** A scheme with the value that a file gives it. */
export type Auth = Readonly<{
  scheme: string;
  texts: readonly TextTemplate[];
  credentials(resolver: Resolver): readonly Credential[];
}>;

export function bind<T>(scheme: AuthScheme<T>, value: T): Auth {
  return {
    scheme: scheme.name,
    texts: scheme.texts(value),
    credentials: (resolver) => scheme.credentials(value, resolver),
  };
}
