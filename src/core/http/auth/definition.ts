import type * as z from 'zod';
import type { Clock } from '../../ports.ts';
import type { Code } from '../../diagnostics/catalogue.ts';
import type { Source } from '../../diagnostics/source.ts';
import type { Node } from '../../expression/model.ts';
import type { Named } from '../../schema/leaves.ts';
import type { Resolver } from '../../template/fill.ts';
import type { TextTemplate, ValueTemplate } from '../../template/template.ts';
import type { Value } from '../../value/value.ts';
import type { ExchangeResult, HttpRequest, HttpResponse } from '../message.ts';
import type { SignInHelp, TokenStore } from './help.ts';
import type { MadeCredential } from './made-credential.ts';

/** What a credential adds to a request. Its value is masked in every record, whatever it is. */
export type Credential = Readonly<{ place: 'header' | 'query' | 'cookie'; name: string; value: string }>;

/** What a scheme may ask for while it adds itself to a request. */
export type Signing = Readonly<{
  /** Fills its placeholders; with masks in place of secrets when a record is made. */
  resolver: Resolver;
  /** The same with further names, whose placeholders are filled anew for each request. */
  withNames(names: Readonly<Record<string, Value>>): Resolver;
  /** The run's clock, drawn once for all of an exchange. */
  nowMs: number;
  randomBytes(count: number): Uint8Array;
}>;

/** Why a request cannot be authenticated. */
export type AuthProblem = Readonly<{ code: Code; message: string; advice?: string }>;

/** What a scheme may ask for that has to sign in before the first request. */
export type AuthHost = Readonly<{
  resolver: Resolver;
  masked: Resolver;
  clock: Clock;
  randomBytes(count: number): Uint8Array;
  /** Sends a request of the sign-in itself: recorded, paced and masked as any other. */
  send(request: HttpRequest): Promise<ExchangeResult>;
  /** Makes a value secret from now on, under a name. */
  mark(name: string, value: Value): void;
  /** Notes in the record that a credential was made, and when it ends. */
  made(credential: MadeCredential): void;
  /** Runs a chain that signs in, and gives what it gives. */
  runChain(file: Source, inputs: Readonly<Record<string, ValueTemplate>>): Promise<ChainGiven>;
  tokens: TokenStore;
  help: SignInHelp;
  signal: AbortSignal;
}>;

export type ChainGiven = Readonly<{ outputs: Readonly<Record<string, Value>> }> | Readonly<{ problem: AuthProblem }>;

/** A scheme at work in one run, shared by all calls of one api, deployment and definition. */
export interface Authenticator {
  /** Which of its credentials a request carries: another one after each renewal. */
  readonly generation: number;
  /** Makes the credential ready before a request, by one flight for all who wait. Nothing to do for most schemes. */
  ready?(host: AuthHost): Promise<AuthProblem | undefined>;
  /** Whether what was ready is so no longer, because time has passed. */
  isStale?(clock: Clock): boolean;
  /** What it adds to a request that is complete otherwise. Throws `FillFault`. */
  credentials(request: HttpRequest, signing: Signing): readonly Credential[];
  /** After a 401 to a request that carried a generation: whether another one is to be had, so that sending again may help. */
  renewed?(response: HttpResponse, generation: number): boolean;
}

/**
 * One way to authenticate: one file, one entry in the list. `T` is what its key holds once read; of a scheme with further
 * keys (`also`) it is `{main, ...}` with what each of them holds.
 */
export type AuthScheme<T> = Readonly<{
  /** The key under `auth`. */
  name: string;
  schema: z.ZodType;
  /** Further keys of `auth` that go with it. */
  also?: Readonly<Record<string, z.ZodType>>;
  /** The texts whose placeholders it fills, for the checks. */
  texts(value: T): readonly TextTemplate[];
  /** Those of them that hold a secret and nothing else; all of them unless said. */
  secrets?(value: T): readonly TextTemplate[];
  /** The names of the headers, parameters or cookies that carry the credential; `Authorization` unless said. */
  carriers?(value: T): readonly string[];
  /** Names beside `secret` and `setting` that its placeholders may read. */
  names?(value: T): readonly string[];
  /** URLs that it sends secrets to, beside the api's. */
  urls?(value: T): readonly TextTemplate[];
  /** The chain that signs in. */
  chain?(value: T): ChainUse | undefined;
  authenticator(value: T): Authenticator;
}>;

/** A chain that is used for what it gives. */
export type ChainUse = Readonly<{
  file: Source;
  inputs: Named<ValueTemplate>;
  /** Expressions that read what it gives. */
  reads: readonly Readonly<{ node: Node; source: Source }>[];
}>;

/** A scheme with the value that a file gives it. */
export type Auth = Readonly<{
  scheme: string;
  texts: readonly TextTemplate[];
  secrets: readonly TextTemplate[];
  /** The names of the headers, parameters or cookies that carry the credential. */
  carriers: readonly string[];
  names: readonly string[];
  urls: readonly TextTemplate[];
  chain: ChainUse | undefined;
  authenticator(): Authenticator;
}>;

export function bind<T>(scheme: AuthScheme<T>, value: T): Auth {
  return {
    scheme: scheme.name,
    texts: scheme.texts(value),
    secrets: scheme.secrets?.(value) ?? scheme.texts(value),
    carriers: scheme.carriers?.(value) ?? ['Authorization'],
    names: scheme.names?.(value) ?? [],
    urls: scheme.urls?.(value) ?? [],
    chain: scheme.chain?.(value),
    authenticator: () => scheme.authenticator(value),
  };
}

/** A scheme whose credential stands in the file and its secrets, and is the same for every request. */
export function fixed(credentials: (resolver: Resolver) => readonly Credential[]): Authenticator {
  return { generation: 0, credentials: (_request, { resolver }) => credentials(resolver) };
}
