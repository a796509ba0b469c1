// Finding a value in a long response, against only parsing it: what both take beyond their own start.
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { inTurns, ms, note, timeOf } from './measure.mjs';
import { program } from './project.mjs';

const ITEMS = 120_000;

export function measureFind() {
  const folder = mkdtempSync(path.join(tmpdir(), 'batharon-bench-'));
  const arrivals = Array.from({ length: ITEMS }, (_, i) => ({
    id: `A-${i}`,
    vessel: { id: `KM ${i}/5`, name: `Vessel number ${i}`, flag: ['NO', 'DK', 'IS'][i % 3], draught: (i % 90) / 8 },
    state: i % 3 === 0 ? 'expected' : 'moored',
    berth: i % 2 === 0 ? null : `N${i % 9}`,
    cargo: [{ what: 'timber', tonnes: i % 50 }],
  }));
  const text = JSON.stringify({ arrivals });
  const [big, small] = [path.join(folder, 'big.json'), path.join(folder, 'small.json')];
  writeFileSync(big, text);
  writeFileSync(small, JSON.stringify({ arrivals: arrivals.slice(0, 1) }));
  const parser = path.join(folder, 'parse.cjs');
  writeFileSync(parser, "JSON.parse(require('fs').readFileSync(process.argv[2], 'utf8'));");
  const [find, findStart, parse, parseStart] = inTurns(
    11,
    () => timeOf(process.execPath, [program, 'find', 'KM 80123/5', big]),
    () => timeOf(process.execPath, [program, 'find', 'KM 0/5', small]),
    () => timeOf(process.execPath, [parser, big]),
    () => timeOf(process.execPath, [parser, small]),
  );
  rmSync(folder, { recursive: true });
  const [ours, floor] = [find - findStart, parse - parseStart];
  note(
    `find in ${(text.length / 1e6).toFixed(0)} MB, against JSON.parse`,
    ours / floor,
    1.2,
    `${ms(ours)} and ${ms(floor)}`,
  );
}
