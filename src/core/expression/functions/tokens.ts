import { isObject, Bytes, type ObjectValue, type Value } from '../../value/value.ts';
import { readJson } from '../../value/json-read.ts';
import { claimsText, JWS_ALGORITHMS, signedToken } from '../json-web-signature.ts';
import { FunctionFault, type FunctionDefinition } from './definition.ts';
import { objectValue, textOrBytes, textValue } from './parameters.ts';

/** JSON Web Tokens (RFC 7519). */
export const tokens: readonly FunctionDefinition[] = [
  {
    name: 'jwt',
    parameters: [objectValue('claims'), textOrBytes('key'), algorithm()],
    result: 'string',
    errors: 'The key cannot be read, or does not fit the algorithm; a claim cannot be written as JSON.',
    about:
      'A signed JSON Web Token (RFC 7519). Date-times in claims become seconds since 1970. The key is a secret for HS256, HS384 and HS512, else a private key in PEM or as a JSON Web Key, whose kid goes into the header.',
    alias: ['jwt_sign', 'jwt_encode', 'sign_jwt'],
    example: ["jwt_claims(jwt(object_of([['iss', 'pilot']]), 'a harbour key', 'HS256')).iss", "'pilot'"],
    evaluate: (claims: ObjectValue, key: string | Bytes, name: string) => {
      const signed = signedToken(claims, key instanceof Bytes ? key.data : key, name);
      if ('message' in signed) throw new FunctionFault(signed.message, signed.advice, 1);
      return signed.token;
    },
  },
  {
    name: 'jwt_claims',
    parameters: [textValue('token')],
    result: 'object',
    errors: 'The string is not a signed JSON Web Token.',
    about: 'The claims of a JSON Web Token, read and not verified.',
    alias: ['jwt_decode', 'decode_jwt', 'parse_jwt', 'jwt_payload'],
    example: ["jwt_claims('eyJhbGciOiJub25lIn0.eyJwb3J0IjoiS3ZpdG5lcyJ9.').port", "'Kvitnes'"],
    evaluate: (token: string) => {
      const text = claimsText(token);
      const json = text === undefined ? undefined : readJson(text);
      if (json?.ok && isObject(json.value)) return json.value;
      const parts = token.trim().split('.').length;
      const why =
        parts === 5
          ? 'it is encrypted'
          : parts === 3
            ? 'its second part is not JSON in base64url'
            : `it has ${parts} parts, not 3`;
      throw new FunctionFault(`The string is not a signed JSON Web Token: ${why}`);
    },
  },
];

function algorithm() {
  const isOne = (value: Value) => typeof value === 'string' && JWS_ALGORITHMS.includes(value);
  return { name: 'algorithm', sort: 'value', what: `one of ${JWS_ALGORITHMS.join(', ')}`, accepts: isOne } as const;
}
