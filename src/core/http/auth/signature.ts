import * as z from 'zod';
import { choice, text, word } from '../../schema/leaves.ts';
import { mapping } from '../../schema/shape.ts';
import type { Source } from '../../diagnostics/source.ts';
import { fillFault, fillText } from '../../template/fill.ts';
import type { TextTemplate } from '../../template/template.ts';
import { base64Text } from '../../value/json-write.ts';
import type { HttpRequest } from '../message.ts';
import type { AuthScheme, Credential, Signing } from './definition.ts';
import { contentDigest, signatureBase } from './signature-base.ts';
import { keyOf, SIGNATURE_ALGORITHMS, signed, type SignatureAlgorithm } from './signing-keys.ts';

type Signature = Readonly<{
  'key-id': TextTemplate;
  key: TextTemplate;
  'key-encoding'?: 'text' | 'base64' | undefined;
  algorithm: SignatureAlgorithm;
  covers?: readonly Source[];
  label?: Source;
  tag?: TextTemplate;
}>;

/** What a signature covers unless it is said. */
const COVERED = ['@method', '@target-uri'];

/** HTTP Message Signatures (RFC 9421): one signature over parts of the request, made anew for each exchange. */
export const signature: AuthScheme<Signature> = {
  name: 'signature',
  schema: mapping({
    'key-id': text('the id of a key').describe('The id of the key at the API.'),
    key: text('a key').describe('The key: a shared secret, or a private key in PEM or as a JSON Web Key.'),
    'key-encoding': choice('text', 'base64')
      .optional()
      .describe('The encoding of a shared secret: text (the default) or base64.'),
    algorithm: choice(...SIGNATURE_ALGORITHMS).describe('The algorithm, as the API documents it.'),
    covers: z
      .array(word('a component such as "@method" or content-digest'))
      .optional()
      .describe('The signed parts of the request: @method, @target-uri, @path, @query, header names ...'),
    label: word('a name').optional().describe('The label of the signature. Default: sig1.'),
    tag: text('a string').optional().describe('The tag parameter, if the API requires one.'),
  }).describe('An HTTP message signature (RFC 9421) over parts of the request.'),
  texts: (value) => [value['key-id'], value.key, ...(value.tag ? [value.tag] : [])],
  secrets: ({ key }) => [key],
  authenticator: (value) => ({
    generation: 0,
    credentials: (request, signing) => credentialsOf(value, request, signing),
  }),
};

/** The digest of the body, where there is one (RFC 9530). */
function digestOf({ body }: HttpRequest): readonly (Credential & Readonly<{ place: 'header' }>)[] {
  return body === undefined ? [] : [{ place: 'header', name: 'Content-Digest', value: contentDigest(body) }];
}

function credentialsOf(value: Signature, request: HttpRequest, signing: Signing): readonly Credential[] {
  const { resolver, nowMs } = signing;
  const label = value.label?.text ?? 'sig1';
  const covers = value.covers?.map((source) => source.text) ?? COVERED;
  const digest = covers.includes('content-digest') ? digestOf(request) : [];
  const added = digest.map(({ name, value: text }) => [name, text] as const);
  const complete = { ...request, headers: [...request.headers, ...added] };
  const base = signatureBase(complete, covers, {
    created: Math.floor(nowMs / 1000),
    keyid: fillText(value['key-id'], resolver),
    alg: value.algorithm,
    ...(value.tag ? { tag: fillText(value.tag, resolver) } : {}),
  });
  if ('missing' in base) {
    const source = value.covers?.find((each) => each.text === base.missing) ?? value.key.source;
    fillFault(source, {
      code: 'invalid-value',
      range: [0, source.text.length],
      message: `The signature covers ${base.missing}, which this request does not have`,
      advice: 'Add it to the request, or remove it from covers.',
    });
  }
  const input: Credential = { place: 'header', name: 'Signature-Input', value: `${label}=${base.parameters}` };
  if (resolver.forRecord)
    return [...digest, input, { place: 'header', name: 'Signature', value: `${label}=:‹Signature›:` }];
  const key = keyOf(fillText(value.key, resolver), value.algorithm, value['key-encoding'] ?? 'text');
  if ('message' in key) {
    const { source } = value.key;
    fillFault(source, { code: 'key-not-readable', range: [0, source.text.length], ...key });
  }
  const made = base64Text(signed(base.text, key.key, value.algorithm));
  return [...digest, input, { place: 'header', name: 'Signature', value: `${label}=:${made}:` }];
}
