// Files made for measuring: a project with one api, and a chain of many calls that each use what the one before kept.
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { fileURLToPath } from 'node:url';

const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), '..');
export const program = path.join(root, 'dist/batharon.cjs');

export function writeProject(url, calls) {
  const folder = mkdtempSync(path.join(tmpdir(), 'batharon-bench-'));
  writeFileSync(path.join(folder, 'batharon.yaml'), `apis:\n  harbour:\n    url: ${url}\n`);
  const steps = Array.from(
    { length: calls },
    (_, i) => `
  - call: vessel-${i + 1}
    request: GET /vessels/{n_${i}}
    expect:
      - $.number == n_${i}
    keep: { n_${i + 1}: $.next }
`,
  );
  const head = 'name: many\napi: harbour\ninputs:\n  n_0: { type: integer, default: 0 }\nsteps:\n';
  writeFileSync(path.join(folder, 'many.chain.yaml'), `${head}${steps.join('')}outputs: [n_${calls}]\n`);
  return folder;
}
