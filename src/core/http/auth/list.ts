import * as z from 'zod';
import { shapeOf, taking } from '../../schema/input.ts';
import { mapping, type Leaf } from '../../schema/shape.ts';
import { apiKey } from './api-key.ts';
import { basic } from './basic.ts';
import { bearer } from './bearer.ts';
import { bind, type Auth, type AuthScheme } from './definition.ts';

/** Every authentication scheme; a new one is a file and a line here. */
const schemes = [bearer, basic, apiKey] as unknown as readonly AuthScheme<unknown>[];

const shape = Object.fromEntries(schemes.map((scheme) => [scheme.name, scheme.schema.optional()]));

/** The mappings under auth, for the reference. */
export const authShapes: readonly Readonly<{ heading: string; schema: z.ZodType }>[] = [
  { heading: 'auth', schema: mapping(shape) },
  ...schemes
    .map(({ name, schema }) => ({ heading: `auth: ${name}`, schema }))
    .filter(({ schema }) => Object.keys(shapeOf(schema)).length > 0),
];

/** The `auth` key of an api or deployment: a mapping with the name of one scheme. */
export const auth = () =>
  mapping(shape)
    .transform((given, context): Auth | undefined => {
      const said = schemes.filter((scheme) => given[scheme.name] !== undefined);
      const [scheme] = said;
      if (scheme && said.length === 1) return bind(scheme, given[scheme.name]);
      const names = schemes.map(({ name }) => name).join(', ');
      context.issues.push({ code: 'custom', message: `one of ${names}`, input: given });
      return undefined;
    })
    .describe('How requests to this api are authenticated.');

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
