// Checking many files, against only parsing them with the yaml package: what both take beyond their own start.
import { build } from 'esbuild';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { inTurns, ms, note, timeOf } from './measure.mjs';
import { program, writeProject } from './project.mjs';

const CHAINS = 300;
const STEPS = 20;

/** A chain as people write them: comments, bodies, conditions, values that go from call to call. */
function chain(number) {
  const steps = Array.from(
    { length: STEPS },
    (_, i) => `
  # step ${i + 1} of chain ${number}
  - call: berth-${i + 1}
    request: POST /vessels/{vessel_${i}}/berths{?day}
    headers: { X-Step: "${i + 1}" }
    json:
      quay: "{quay}"
      draught: ${4 + i / 10}
      note: "due {day}, number ${number}"
    expect:
      - status == 201
      - $.berth.depth >= 5 && $.state in ['free', 'reserved']
      - all($.moorings[?@.kind == 'bow'], @.load < 12)
    keep:
      vessel_${i + 1}: $.next.vessel`,
  );
  return `name: many-${number}
about: One of ${CHAINS} chains of ${STEPS} steps.
api: harbour

inputs:
  day: { type: date, default: "2026-05-23" }
  quay: { type: string, default: "N" }
  vessel_0: { type: string, default: KM 204/5 }

steps:${steps.join('\n')}

outputs: [vessel_${STEPS}]
`;
}

export async function measureCheck() {
  const folder = writeProject('http://127.0.0.1:9', 1);
  const [many, one] = [path.join(folder, 'many'), path.join(folder, 'one')];
  for (const [at, count] of [
    [many, CHAINS],
    [one, 1],
  ]) {
    mkdirSync(path.join(at, 'chains'), { recursive: true });
    writeFileSync(path.join(at, 'batharon.yaml'), 'apis:\n  harbour:\n    url: http://127.0.0.1:9\n');
    for (let i = 0; i < count; i++) writeFileSync(path.join(at, `chains/c${i}.chain.yaml`), chain(i));
  }
  const parser = path.join(folder, 'parser.cjs');
  const contents = `
    import { readdirSync, readFileSync } from 'node:fs';
    import { parseDocument } from 'yaml';
    const folder = process.argv[2] + '/chains/';
    let sum = 0;
    for (const name of readdirSync(folder)) sum += parseDocument(readFileSync(folder + name, 'utf8')).contents.items.length;
    if (sum === 0) process.exitCode = 1;`;
  await build({
    stdin: { contents, resolveDir: path.dirname(path.dirname(program)) },
    outfile: parser,
    bundle: true,
    platform: 'node',
    format: 'cjs',
  });
  const [check, checkStart, parse, parseStart] = inTurns(
    9,
    () => timeOf(process.execPath, [program, 'check'], { cwd: many }),
    () => timeOf(process.execPath, [program, 'check'], { cwd: one }),
    () => timeOf(process.execPath, [parser, many]),
    () => timeOf(process.execPath, [parser, one]),
  );
  rmSync(folder, { recursive: true });
  const [ours, floor] = [check - checkStart, parse - parseStart];
  note(`check of ${CHAINS} chains of ${STEPS} steps, against yaml`, ours / floor, 1.5, `${ms(ours)} and ${ms(floor)}`);
}
