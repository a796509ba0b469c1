// Drafting a capture of 100 MB with 5,000 entries, against only parsing it: what both take beyond their own start.
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { inTurns, ms, note, timeOf } from './measure.mjs';
import { program } from './project.mjs';

const ENTRIES = 5000;
const BYTES = 100e6;

/** A capture in which each request has a value of the response before it. */
function capture(entries) {
  const filler = 'x'.repeat(Math.floor(BYTES / ENTRIES / 10));
  const items = Array.from({ length: 9 }, (_, k) => ({ what: filler, n: k }));
  return JSON.stringify({
    log: {
      version: '1.2',
      entries: Array.from({ length: entries }, (_, i) => ({
        request: {
          method: i % 3 === 0 ? 'POST' : 'GET',
          url: `https://harbour.example/v1/vessels/vessel-${i}-0a1b?day=2026-05-23`,
          headers: [{ name: 'Authorization', value: 'Bearer tok-0123456789abcdef' }],
          ...(i % 3 === 0 ? { postData: { mimeType: 'application/json', text: `{"of":"vessel-${i}-0a1b"}` } } : {}),
        },
        response: {
          status: 200,
          content: { mimeType: 'application/json', text: JSON.stringify({ next: `vessel-${i + 1}-0a1b`, items }) },
        },
      })),
    },
  });
}

export function measureDrafts() {
  const folder = mkdtempSync(path.join(tmpdir(), 'batharon-bench-'));
  const [big, small] = [path.join(folder, 'big.har'), path.join(folder, 'small.har')];
  const text = capture(ENTRIES);
  writeFileSync(big, text);
  writeFileSync(small, capture(1));
  const parser = path.join(folder, 'parse.cjs');
  writeFileSync(parser, "JSON.parse(require('fs').readFileSync(process.argv[2], 'utf8'));");
  const draft = (file) => {
    const cwd = mkdtempSync(path.join(folder, 'draft-'));
    const took = timeOf(process.execPath, [program, 'draft', file], { cwd });
    rmSync(cwd, { recursive: true });
    return took;
  };
  const [ours, start, parse, parseStart] = inTurns(
    5,
    () => draft(big),
    () => draft(small),
    () => timeOf(process.execPath, [parser, big]),
    () => timeOf(process.execPath, [parser, small]),
  );
  rmSync(folder, { recursive: true });
  const detail = `${ms(ours - start)} and ${ms(parse - parseStart)}`;
  note(`draft a capture of ${(text.length / 1e6).toFixed(0)} MB`, (ours - start) / (parse - parseStart), 3, detail);
}
