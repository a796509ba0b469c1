import { paletteOf } from '../../src/cli/view/palette.ts';
import { showDiagnostic, tally } from '../../src/cli/view/diagnostics.ts';
import { cut, padded, sized, wrapped } from '../../src/cli/view/text.ts';
import { visible } from '../../src/core/value/visible.ts';
import { diagnosticAt } from '../../src/core/diagnostics/source.ts';
import { nearest } from '../../src/core/diagnostics/suggest.ts';
import { counted, nameList, showValue, spent } from '../../src/core/value/show.ts';
import { Duration } from '../../src/core/value/value.ts';

test.each<[unknown, unknown]>([
  [cut('Kvitnes', 4), 'Kvi…'],
  [cut('日本語', 4), '日…'],
  [padded('日', 4), '日  '],
  [wrapped('one two three', 8), ['one two', 'three']],
  [wrapped('abcdefghij', 4), ['abcd', 'efgh', 'ij']],
  [visible('a\u001b[2Jb\u202e\u0085'), 'a␛[2Jb<U+202E><U+0085>'],
  [spent(84.4), '84 ms'],
  [spent(6240), '6.2 s'],
  [spent(125_000), '2 min 5 s'],
  [sized(340), '340 B'],
  [sized(1234), '1.2 kB'],
  [sized(20_400_000), '20 MB'],
  [counted(1, 'item'), '1 item'],
  [counted(26_000, 'item'), '26,000 items'],
  [nameList(['a', 'b c'], 1), 'a and 1 more'],
  [showValue("it's"), "'it\\'s'"],
  [showValue('x'.repeat(200)).length, 120],
  [showValue(Array.from({ length: 30 }, () => 1)), '30 items'],
  [showValue(new Duration(1500)), '1.5s'],
  [nearest('vesel', ['berth', 'vessel']), 'vessel'],
  [nearest('nmae', ['name']), 'name'],
  [nearest('x', ['day', 'vessel']), undefined],
])('%j is %j', (given, expected) => expect(given).toEqual(expected));

describe('a diagnostic', () => {
  const file = { path: 'a.yaml', text: `one: 1\n\ttwo: ${'x'.repeat(200)}WRONG${'y'.repeat(200)}\n` };
  const at = file.text.indexOf('WRONG');
  const diagnostic = diagnosticAt(file, {
    code: 'unknown-name',
    range: [at, at + 5],
    message: 'It is \u001b wrong',
    advice: 'Mend it.',
  });

  test('shows the part that is wrong at any width, and no control characters', () => {
    const shown = showDiagnostic(diagnostic, paletteOf(false), 80).split('\n');
    expect(shown.every((line) => line.length <= 80)).toBe(true);
    const underline = shown[3]!.indexOf('~');
    expect(shown[2]!.slice(underline, underline + 5)).toBe('WRONG');
    expect(shown[3]!.trimEnd().endsWith('~~~~~')).toBe(true);
    expect([shown[0], shown[1], shown[4]]).toEqual([
      'error unknown-name: It is ␛ wrong',
      '  a.yaml:2:207',
      '        Mend it.',
    ]);
  });

  test('is coloured only when that is wanted', () => {
    expect(showDiagnostic(diagnostic, paletteOf(true), 80)).toContain('\u001b[31m');
    expect(showDiagnostic(diagnostic, paletteOf(false), 80)).not.toContain('\u001b');
    expect(tally([diagnostic, { ...diagnostic, level: 'warning' }])).toBe('1 error and 1 warning');
  });
});
