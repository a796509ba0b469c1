import * as z from 'zod';
import { shapeOf, taking } from '../../schema/input.ts';
import { mapping, type Leaf } from '../../schema/shape.ts';
import { apiKey } from './api-key.ts';
import { attach } from './attach.ts';
import { basic } from './basic.ts';
import { bearer } from './bearer.ts';
import { chain } from './chain.ts';
import { bind, type Auth, type AuthScheme } from './definition.ts';
import { digest } from './digest.ts';
import { oauth2 } from './oauth2.ts';
import { signature } from './signature.ts';
import { together } from './together.ts';

/** Every authentication scheme; a new one is a file and a line here. `chain` has `attach` beside it, so it comes first. */
const schemes = [
  bearer,
  basic,
  digest,
  apiKey,
  oauth2,
  signature,
  chain,
  attach,
] as unknown as readonly AuthScheme<unknown>[];

const shape = Object.fromEntries(
  schemes.flatMap(({ name, schema, also = {} }) =>
    Object.entries({ [name]: schema, ...also }).map(([key, each]) => [key, each.optional()]),
  ),
);

/** The mappings under auth, for the reference. */
export const authShapes: readonly Readonly<{ heading: string; schema: z.ZodType }>[] = [
  { heading: 'auth', schema: mapping(shape) },
  ...schemes
    .map(({ name, schema }) => ({ heading: `auth: ${name}`, schema }))
    .filter(({ schema }) => Object.keys(shapeOf(schema)).length > 0),
];

/** The keys under `auth`, and under each scheme that is a mapping, for suggestions. */
export const authKeys: Readonly<Record<string, readonly string[]>> = {
  auth: Object.keys(shape),
  ...Object.fromEntries(schemes.map(({ name, schema }) => [name, Object.keys(shapeOf(schema))])),
};

/** A mapping with the name of one scheme. */
const oneScheme = () =>
  mapping(shape)
    .transform((given, context): Auth | undefined => {
      const said = schemes.filter((scheme) => given[scheme.name] !== undefined);
      const [scheme] = said;
      const beside = Object.keys(scheme?.also ?? {});
      const others = said.slice(1).filter(({ name }) => !beside.includes(name));
      const stray = Object.keys(given).filter((key) => key !== scheme?.name && !beside.includes(key));
      if (scheme && others.length === 0 && stray.length === 0) {
        const main = given[scheme.name];
        const parts = Object.fromEntries(beside.map((key) => [key, given[key]]));
        return bind(scheme, scheme.also ? { main, ...parts } : main);
      }
      const names = schemes.map(({ name }) => name).join(', ');
      const message = scheme && stray[0] !== undefined ? `${stray[0]} only together with chain` : `one of ${names}`;
      context.issues.push({ code: 'custom', message, input: given });
      return undefined;
    })
    .describe('How requests to this API are authenticated.');

/** The `auth` key of an api or deployment: a scheme, or a list of schemes that go together. */
export const auth = () =>
  z
    .union([oneScheme(), z.array(oneScheme())])
    .transform((given) => {
      if (!Array.isArray(given)) return given;
      const all = given.filter((each) => each !== undefined);
      return all.length > 1 ? together(all) : all[0];
    })
    .describe('How requests to this API are authenticated; a list has schemes that go together.');

/** `auth` of a call: a scheme, or `none` to send this one without credentials. */
export const callAuth = () =>
  z.union([
    taking(
      z.custom<Leaf>((given) => typeof given === 'function' && (given as Leaf)().node.source.text === 'none', {
        message: 'none',
      }),
      () => ({ what: 'none', json: { const: 'none' } }),
    ).transform(() => 'none' as const),
    auth(),
  ]);
