import { readFileSync } from 'node:fs';
import path from 'node:path';
import fc from 'fast-check';
import { contentForm } from '../../src/core/value/content-form.ts';

const bytes = (...parts: readonly (string | readonly number[])[]) =>
  Uint8Array.from(
    parts.flatMap((part) => (typeof part === 'string' ? [...part].map((sign) => sign.charCodeAt(0)) : part)),
  );

const png = readFileSync(path.join(__dirname, '../../docs/screenshots/run.png'));

test.each<[string, Uint8Array, object]>([
  ['a picture of the documentation', png, { name: 'PNG image', ending: 'png' }],
  [
    'PNG',
    bytes('\x89PNG\r\n\x1a\n', [0, 0, 0, 13], 'IHDR', [0, 0, 2, 128, 0, 0, 1, 224]),
    { size: { width: 640, height: 480 } },
  ],
  ['GIF', bytes('GIF89a', [64, 1, 240, 0]), { ending: 'gif', size: { width: 320, height: 240 } }],
  ['BMP', bytes('BM', Array(16).fill(0), [10, 0, 0, 0, 5, 0, 0, 0]), { size: { width: 10, height: 5 } }],
  [
    'JPEG with a segment before its frame',
    bytes('\xff\xd8\xff\xe0', [0, 4, 1, 2], '\xff\xc2', [0, 11, 8, 1, 224, 2, 128, 3, 1, 1]),
    { ending: 'jpg', size: { width: 640, height: 480 } },
  ],
  [
    'WebP, lossy',
    bytes('RIFF', [0, 0, 0, 0], 'WEBPVP8 ', Array(10).fill(0), [128, 2, 224, 1]),
    { size: { width: 640, height: 480 } },
  ],
  [
    'WebP, lossless',
    bytes('RIFF', [0, 0, 0, 0], 'WEBPVP8L', [0, 0, 0, 0, 0x2f, 0x7f, 0xc2, 0x77, 0], Array(6).fill(0)),
    { size: { width: 640, height: 480 } },
  ],
  [
    'WebP, extended',
    bytes('RIFF', [0, 0, 0, 0], 'WEBPVP8X', Array(8).fill(0), [127, 2, 0, 223, 1, 0]),
    { size: { width: 640, height: 480 } },
  ],
  ['WAV, which begins as WebP does', bytes('RIFF', [0, 0, 0, 0], 'WAVE'), { ending: 'wav' }],
  ['MP4', bytes([0, 0, 0, 24], 'ftypisom'), { ending: 'mp4' }],
  ['PDF', bytes('%PDF-1.7'), { ending: 'pdf' }],
])('%s', (_name, content, form) => {
  expect(contentForm(content)).toMatchObject(form);
});

test('a form that is cut off has no size, and what has no form is nothing', () => {
  fc.assert(
    fc.property(
      fc.constantFrom('\x89PNG\r\n\x1a\n', '\xff\xd8\xff', 'GIF8', 'RIFF....WEBP', 'BM'),
      fc.uint8Array({ maxLength: 40 }),
      (begins, rest) => {
        expect(contentForm(bytes(begins, [...rest]))).toBeDefined();
      },
    ),
    { numRuns: 300 },
  );
  expect([contentForm(bytes('{"a":1}')), contentForm(new Uint8Array())]).toEqual([undefined, undefined]);
});
