// How long the program takes to start, against bare Node. Many rounds: the time of so short a process varies a lot.
import { rmSync } from 'node:fs';
import { inTurns, ms, note, timeOf } from './measure.mjs';
import { program, writeProject } from './project.mjs';

export function measureStart() {
  const folder = writeProject('http://127.0.0.1:9', 200);
  const [bare, version, check] = inTurns(
    41,
    () => timeOf(process.execPath, ['-e', '0']),
    () => timeOf(process.execPath, [program, '--version']),
    () => timeOf(process.execPath, [program, 'check', 'many.chain.yaml'], { cwd: folder }),
  );
  rmSync(folder, { recursive: true });
  note('--version, against node -e 0', version / bare, 1.6, `${ms(version)} and ${ms(bare)}`);
  note('check of 200 steps, against node -e 0', check / bare, 2.5, `${ms(check)} and ${ms(bare)}`);
}
