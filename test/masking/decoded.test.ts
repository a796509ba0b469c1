import fc from 'fast-check';
import { Masker } from '../../src/core/masking/masker.ts';
import { showValue } from '../../src/core/value/show.ts';

const SECRET = 'it\'s-a<very>&secret"token\\1234';
const masker = new Masker();
masker.add('TOKEN', SECRET);
const masked = (text: string) => masker.text(text);

const hex = (size: number) => (code: number) => code.toString(16).padStart(size, '0');
const each = (encode: (code: number) => string) => (text: string) =>
  [...text].map((character) => encode(character.codePointAt(0)!)).join('');

const encodings: Readonly<Record<string, (text: string) => string>> = {
  'as messages quote it': (text) => showValue(text).slice(1, -1),
  'JSON escapes of every character': each((code) => `\\u${hex(4)(code)}`),
  'JSON escapes in upper case': each((code) => `\\u${hex(4)(code).toUpperCase()}`),
  'some JSON escapes': (text) =>
    JSON.stringify(text)
      .slice(1, -1)
      .replace(/[aeiou]/g, (c) => `\\u${hex(4)(c.charCodeAt(0))}`),
  'XML entities by name': (text) =>
    text.replace(/[&<>"']/g, (c) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&apos;' })[c]!),
  'XML entities by number': each((code) => `&#${code};`),
  'XML entities in hexadecimal': each((code) => `&#x${code.toString(16)};`),
  'XML entities with leading zeros': each((code) => `&#x00${code.toString(16).toUpperCase()};`),
  'percent-encoded': encodeURIComponent,
  'every byte percent-encoded': each((code) => `%${hex(2)(code)}`),
  'percent-encoded twice': (text) => encodeURIComponent(encodeURIComponent(text)),
  'JSON in JSON': (text) => JSON.stringify(JSON.stringify(text)).slice(1, -1),
  'entities in JSON': (text) => JSON.stringify(each((code) => `&#${code};`)(text)).slice(1, -1),
  'percent-encoded in entities': (text) => each((code) => `&#${code};`)(encodeURIComponent(text)),
};

test.each(Object.entries(encodings))('a secret is found behind %s', (_what, encode) => {
  const found = masked(`before ${encode(SECRET)} after`);
  expect(found).toContain('‹TOKEN›');
  expect(found.startsWith('before ') && found.endsWith(' after')).toBe(true);
  expect(found).not.toMatch(/secret|token\d|1234/);
});

test.each([
  ['after a cut', `'${SECRET.slice(0, 12)}…`],
  ['after a cut with a blank', `{ "a": "${SECRET.slice(0, 20)} …`],
  ['cut to its first characters', `${SECRET.slice(0, 5)}…`],
])('the beginning of a secret is masked %s', (_what, text) => {
  expect(masked(text)).toContain('‹TOKEN›…'.slice(0, -1));
  expect(masked(text)).not.toContain(SECRET.slice(0, 5));
});

test('what somebody else puts between the signs of a mask is no mask', () => {
  const plain = new Masker();
  plain.add('KEY', 'kvitnes-key');
  expect(plain.text('‹kvitnes-key›')).toBe('‹‹KEY››');
  expect(plain.text('‹KEY›')).toBe('‹KEY›');
});

test('a secret that holds escapes itself is found where others are decoded', () => {
  const own = new Masker();
  own.add('S', '%0Aa""<<%>><');
  expect(own.text('|%0A\\u0061\\"\\"<<%>><|')).toBe('|‹S›|');
});

test('no text with a secret in it shows it, however it is escaped, and masking twice changes nothing', () => {
  const secrets = fc.stringMatching(/^[A-Za-z0-9&<>"'%/+=-]{8,24}$/);
  fc.assert(
    fc.property(secrets, fc.string(), fc.constantFrom(...Object.values(encodings)), (secret, around, encode) => {
      fc.pre(!around.includes('…') && !around.includes('‹'));
      const own = new Masker();
      own.add('S', secret);
      const once = own.text(`${around}|${encode(secret)}|`);
      expect(once).toContain('‹S›');
      expect(own.text(once)).toBe(once);
    }),
    { numRuns: 400 },
  );
});
