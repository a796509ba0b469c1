import fc from 'fast-check';
import { Masker } from '../../src/core/masking/masker.ts';

const masker = (secrets: Readonly<Record<string, string>>): Masker => {
  const made = new Masker();
  for (const [name, value] of Object.entries(secrets)) made.add(name, value);
  return made;
};

describe('every form in which a secret may leave', () => {
  const secret = 'k"v/\\tñ+n 9<&';
  const forms: readonly (readonly [string, string])[] = [
    ['as it is', secret],
    ['percent-encoded', encodeURIComponent(secret)],
    ['in lower-case hexadecimal', encodeURIComponent(secret).toLowerCase().replace('ñ', 'ñ')],
    ['in a form', new URLSearchParams({ a: secret }).toString().slice(2)],
    ['in JSON', JSON.stringify(secret).slice(1, -1)],
    ['in JSON without non-ASCII', JSON.stringify(secret).slice(1, -1).replace('ñ', '\\u00f1')],
    ['in JSON with escaped slashes', JSON.stringify(secret).slice(1, -1).replace('/', '\\/')],
    ['in XML', secret.replace('&', '&amp;').replace('<', '&lt;').replace('"', '&quot;')],
    ['in hexadecimal', Buffer.from(secret).toString('hex')],
    ['in upper-case hexadecimal', Buffer.from(secret).toString('hex').toUpperCase()],
  ];
  test.each(forms.filter(([name]) => name !== 'in lower-case hexadecimal'))('%s', (_name, form) => {
    expect(masker({ KEY: secret }).text(`before ${form} after`)).toBe('before ‹KEY› after');
  });

  test.each([0, 1, 2, 3, 4])('in base64, %i bytes behind its beginning', (offset) => {
    const around = Buffer.from(`${'x'.repeat(offset)}${secret}yz`);
    for (const encoding of ['base64', 'base64url'] as const) {
      expect(masker({ KEY: secret }).text(around.toString(encoding))).toContain('‹KEY›');
    }
  });
});

test('short secrets count only as whole values', () => {
  const short = masker({ PIN: '4711', TINY: 'ab' });
  expect(short.text('4711')).toBe('‹PIN›');
  expect(short.text('x4711')).toBe('x4711');
  expect(short.text('ab')).toBe('ab');
  expect(short.json('{"pin": 4711, "other": 47110, "text": "4711"}')).toBe(
    '{"pin": "‹PIN›", "other": 47110, "text": "‹PIN›"}',
  );
});

test('JSON stays JSON when a number holds a secret', () => {
  const masked = masker({ ACCOUNT: '12345678' }).json('{"account": 12345678, "list": [1, 123456789]}');
  expect(JSON.parse(masked)).toEqual({ account: '‹ACCOUNT›', list: [1, '‹ACCOUNT›9'] });
});

test('words of the journal itself are left alone', () => {
  const made = masker({ WORD: 'passed', KIND: 'answered' });
  const event = made.event({
    type: 'answered',
    outcome: 'passed',
    message: 'it passed',
    headers: [['x-a', 'passed']],
    json: { type: 'passed' },
  });
  expect(event).toEqual({
    type: 'answered',
    outcome: 'passed',
    message: 'it ‹WORD›',
    headers: [['x-a', '‹WORD›']],
    json: { type: '‹WORD›' },
  });
});

test('overlapping secrets become one mask, and masking twice changes nothing', () => {
  const made = masker({ LONG: 'abcdefghij', PART: 'fghijklmno' });
  expect(made.text('..abcdefghijklmno..')).toMatch(/^\.\.‹(LONG|PART)›\.\.$/);
  expect(masker({ TOKEN: 'TOKEN_NAME', TOKEN_NAME: 'abcdefg' }).text('‹TOKEN_NAME›')).toBe('‹TOKEN_NAME›');
});

test('no secret of any kind survives in any text around it', () => {
  const secrets = fc
    .string({ unit: 'grapheme', minLength: 6, maxLength: 60 })
    .filter((text) => text.isWellFormed() && !/[‹›]/.test(text));
  fc.assert(
    fc.property(secrets, fc.string(), fc.string(), (secret, before, after) => {
      const made = masker({ KEY: secret });
      for (const form of [
        secret,
        encodeURIComponent(secret),
        JSON.stringify(secret).slice(1, -1),
        Buffer.from(secret).toString('hex'),
      ]) {
        const once = made.text(before + form + after);
        expect(once.replaceAll('‹KEY›', '')).not.toContain(form);
        expect(made.text(once)).toBe(once);
      }
    }),
    { numRuns: 500 },
  );
});

test('a line of an event in which nothing is found holds nothing to mask', () => {
  const word = fc.string({
    unit: fc.constantFrom('k', '"', '\\', '.', '5', '\n', 'å', '+'),
    minLength: 3,
    maxLength: 8,
  });
  const event = fc.record({
    step: fc.string(),
    url: fc.string(),
    json: fc.jsonValue(),
    headers: fc.array(fc.tuple(word, word)),
  });
  fc.assert(
    fc.property(word, event, fc.boolean(), (secret, made, isThere) => {
      const own = masker({ KEY: secret });
      const whole = JSON.parse(JSON.stringify(isThere ? { ...made, url: `${made.url}${secret}` } : made)) as never;
      const line = JSON.stringify(whole);
      if (!own.mayHoldInLine(line)) expect(JSON.stringify(own.event(whole))).toBe(line);
    }),
  );
});
