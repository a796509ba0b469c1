import { crypto } from '../../packages.ts';
import { textOfBase64 } from '../../value/base64.ts';
import { encodeUnreserved } from '../../value/percent.ts';
import { Bytes, LongBytes } from '../../value/value.ts';
import { FunctionFault, type FunctionDefinition } from './definition.ts';
import { content as contentValue, textOrBytes, textValue } from './parameters.ts';

type Content = string | Bytes;

const ALGORITHMS = ['sha256', 'sha512', 'sha1', 'md5'];

/** Encodings and digests of texts (as UTF-8) and bytes. */
export const encodings: readonly FunctionDefinition[] = [
  {
    name: 'url_encoded',
    parameters: [textValue()],
    result: 'string',
    about:
      'The string percent-encoded, except unreserved characters (RFC 3986). Placeholders in URLs are encoded without it.',
    alias: ['urlencode', 'encode_uri', 'percent_encode', 'uri_encode'],
    example: ['url_encoded($.arrivals[0].vessel)', "'KM%20204%2F5'"],
    evaluate: (text: string) => encodeUnreserved(text),
  },
  {
    name: 'url_decoded',
    parameters: [textValue()],
    result: 'string',
    errors: 'The string is not percent-encoded UTF-8.',
    about: 'The string that a percent-encoded one stands for.',
    alias: ['urldecode', 'decode_uri', 'percent_decode', 'uri_decode'],
    example: ["url_decoded('KM%20204%2F5')", "'KM 204/5'"],
    evaluate: (text: string) => {
      try {
        return decodeURIComponent(text);
      } catch {
        throw new FunctionFault(`'${text}' is not percent-encoded UTF-8`);
      }
    },
  },
  {
    name: 'base64',
    parameters: [textOrBytes()],
    result: 'string',
    about: 'The value in base64 with padding (RFC 4648 section 4).',
    alias: ['base64_encode', 'b64', 'b64encode'],
    example: ['base64($.port)', "'S3ZpdG5lcw=='"],
    evaluate: (content: Content) => btoa(binary(content)),
  },
  {
    name: 'base64_decoded',
    parameters: [textValue()],
    result: 'string',
    errors: 'The string is not base64, or does not decode to UTF-8.',
    about: 'The string that a base64 or base64url one stands for.',
    alias: ['base64_decode', 'b64decode', 'atob'],
    example: ["base64_decoded('S3ZpdG5lcw==')", "'Kvitnes'"],
    evaluate: (text: string) => {
      const decoded = textOfBase64(text);
      if (decoded !== undefined) return decoded;
      throw new FunctionFault(`'${text}' is not base64 of UTF-8 text`);
    },
  },
  {
    name: 'base64url',
    parameters: [textOrBytes()],
    result: 'string',
    about: 'The value in base64url without padding (RFC 4648 section 5).',
    alias: ['base64_url'],
    example: ["base64url('>>>')", "'Pj4-'"],
    evaluate: (content: Content) => btoa(binary(content)).replaceAll('+', '-').replaceAll('/', '_').replace(/=+$/, ''),
  },
  {
    name: 'hex',
    parameters: [textOrBytes()],
    result: 'string',
    about: 'The value in hexadecimal, lower case.',
    alias: ['to_hex', 'hexlify'],
    example: ["hex('Kv')", "'4b76'"],
    evaluate: (content: Content) => [...bytesOf(content)].map((byte) => byte.toString(16).padStart(2, '0')).join(''),
  },
  ...['sha256', 'sha1', 'md5'].map((name): FunctionDefinition => ({
    name,
    parameters: [contentValue()],
    result: 'string',
    about: `The ${name === 'md5' ? 'MD5' : name === 'sha1' ? 'SHA-1' : 'SHA-256'} digest, in hexadecimal.`,
    example: [`length(${name}($.port))`, String({ sha256: 64, sha1: 40, md5: 32 }[name])],
    evaluate: (content: Content | LongBytes) => updated(crypto().createHash(name), content).digest('hex'),
  })),
  {
    name: 'hmac',
    parameters: [textValue('algorithm'), textOrBytes('key'), contentValue('text')],
    result: 'bytes',
    errors: 'The algorithm is not one of sha256, sha512, sha1, md5.',
    about:
      'The keyed digest (RFC 2104) as bytes; the algorithms are sha256, sha512, sha1 and md5. Wrap it in hex() or base64().',
    alias: ['hmac_sha256', 'sign', 'signature'],
    example: ["length(hex(hmac('sha256', 'key', $.port)))", '64'],
    evaluate: (algorithm: string, key: Content, content: Content | LongBytes) => {
      if (!ALGORITHMS.includes(algorithm))
        throw new FunctionFault(`'${algorithm}' is not one of ${ALGORITHMS.join(', ')}`);
      return new Bytes(updated(crypto().createHmac(algorithm, bytesOf(key)), content).digest());
    },
  },
];

function updated<H extends Readonly<{ update(data: Uint8Array): unknown }>>(hash: H, content: Content | LongBytes): H {
  for (const piece of content instanceof LongBytes ? content.pieces() : [bytesOf(content)]) hash.update(piece);
  return hash;
}

function bytesOf(content: Content): Uint8Array {
  return typeof content === 'string' ? new TextEncoder().encode(content) : content.data;
}

function binary(content: Content): string {
  let text = '';
  for (const byte of bytesOf(content)) text += String.fromCharCode(byte);
  return text;
}
