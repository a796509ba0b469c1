import { counted } from './show.ts';

/** Alphabets in which digests and keys are written, the narrowest first (RFC 4648). */
const ALPHABETS: readonly (readonly [pattern: RegExp, name: string])[] = [
  [/^[0-9]+$/, 'decimal digits'],
  [/^[0-9a-f]+$/, 'hexadecimal in lower case'],
  [/^[0-9A-F]+$/, 'hexadecimal in upper case'],
  [/^[A-Z2-7]+=*$/, 'base32'],
  [/^[A-Za-z0-9_-]+$/, 'base64url without padding'],
  [/^[A-Za-z0-9_-]+=+$/, 'base64url'],
  [/^[A-Za-z0-9+/]+=*$/, 'base64'],
];

/** What stands before a digest to say how it was made: nothing that could be a part of a secret. */
const LABELLED = /^((?:hmac-)?(?:md5|sha-?\d{1,3})=|v\d=|sig(?:nature)?=)(.+)$/is;

/** Of what kind a text is, without showing it: `sha256= and 64 characters of hexadecimal in lower case`. */
export function kindOfText(text: string): string {
  if (text === '') return 'an empty string';
  const [, label = '', rest = text] = LABELLED.exec(text) ?? [];
  const alphabet = ALPHABETS.find(([pattern]) => pattern.test(rest))?.[1];
  const characters = counted(rest.length, 'character');
  return `${label && `${label} and `}${characters}${alphabet === undefined ? '' : ` of ${alphabet}`}`;
}
