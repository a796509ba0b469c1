import { decodeBody } from '../../src/core/http/decode.ts';
import type { Header, HttpResponse } from '../../src/core/http/message.ts';
import { HeaderFields } from '../../src/core/http/headers.ts';
import { showValue } from '../../src/core/value/show.ts';

const response = (body: string | Uint8Array, type: string | undefined): HttpResponse => ({
  status: 200,
  reason: 'OK',
  http: 'HTTP/1.1',
  headers: type === undefined ? [] : ([['Content-Type', type]] as Header[]),
  body: typeof body === 'string' ? Buffer.from(body) : body,
  encodedSize: body.length,
  reused: false,
  timings: { blocked: 0, dns: 0, connect: 0, tls: 0, send: 0, wait: 0, receive: 0 },
});

const decoded = async (body: string | Uint8Array, type: string | undefined): Promise<string> => {
  const result = await decodeBody(response(body, type));
  return result.problem
    ? `${result.problem.code}: ${result.problem.message}`
    : `${result.as} ${showValue(result.value)}`;
};

describe('a body is read by its media type and charset', () => {
  test.each<[name: string, body: string | Uint8Array, type: string | undefined, expected: string]>([
    ['JSON', '{"a":1}', 'application/json', 'json {"a":1}'],
    ['a JSON type of its own', '[1]', 'application/problem+json; charset=utf-8', 'json [1]'],
    ['text', 'hei', 'text/plain', "text 'hei'"],
    ['text without a type', 'hei', undefined, "text 'hei'"],
    ['bytes without a type', Uint8Array.of(0xff, 0xfe, 0xfd, 0xff, 0xff), undefined, 'bytes 5 bytes'],
    ['an image', Uint8Array.of(1, 2, 3), 'image/png', 'bytes 3 bytes'],
    ['nothing', '', 'application/json', 'none nothing'],
    ['a byte-order mark', Uint8Array.of(0xef, 0xbb, 0xbf, 0x31), 'application/json', 'json 1'],
    ['latin1, which is windows-1252', Uint8Array.of(0xe5, 0x80), 'text/plain; charset=latin1', "text 'å€'"],
    ['Shift_JIS', Uint8Array.of(0x93, 0xfa), 'text/plain; charset=shift_jis', "text '日'"],
    ['UTF-16', Uint8Array.of(0xff, 0xfe, 0x31, 0x00), 'text/plain', "text '1'"],
    [
      'an unknown charset',
      'x',
      'text/plain; charset=klingon',
      'unknown-charset: The body declares the charset "klingon", which is not supported',
    ],
    [
      'invalid UTF-8',
      Uint8Array.of(0x61, 0xc3, 0xa5, 0xff, 0x62),
      'text/plain',
      'not-decodable: The body is not valid UTF-8: byte 4 begins ff 62',
    ],
    [
      'not JSON',
      '{"a":',
      'application/json',
      'not-decodable: The body is declared as application/json, and cannot be read as JSON: the text ends where a value is expected, at character 6',
    ],
    [
      'too deep',
      '['.repeat(100_000),
      'application/json',
      'over-limit: The body is declared as application/json, and cannot be read as JSON: nested more than 512 levels deep, at character 513',
    ],
  ])('%s', async (_name, body, type, expected) => expect(await decoded(body, type)).toBe(expected));
});

test('header fields know neither case nor _ from -, and come as one text', () => {
  const fields = new HeaderFields([
    ['Content-Type', 'a'],
    ['X-List', '1'],
    ['x-list', '2'],
    ['Set-Cookie', 'a=b'],
  ]);
  expect(['content_type', 'CONTENT-TYPE', 'x_list', 'set_cookie', 'gone'].map((name) => fields.member(name))).toEqual([
    'a',
    'a',
    '1, 2',
    undefined,
    undefined,
  ]);
});
