// Whole processes, run in turns, their medians compared: what a user waits for, as ratios that hold on any machine.
import { spawnSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { cpus } from 'node:os';

/** Milliseconds of one process from start to end. */
export function timeOf(command, args, options = {}) {
  const started = process.hrtime.bigint();
  const { status, stderr } = spawnSync(command, args, { stdio: ['ignore', 'ignore', 'pipe'], ...options });
  if (status !== (options.expect ?? 0)) throw new Error(`${command} ${args.join(' ')} ended with ${status}: ${stderr}`);
  return Number(process.hrtime.bigint() - started) / 1e6;
}

export function median(numbers) {
  const sorted = [...numbers].sort((a, b) => a - b);
  return sorted[Math.floor(sorted.length / 2)];
}

/** Runs each of several things `rounds` times in turns; gives the median of each, in order. */
export function inTurns(rounds, ...runs) {
  const times = runs.map(() => []);
  for (let i = 0; i < rounds; i++) runs.forEach((run, k) => times[k].push(run()));
  return times.map(median);
}

const rows = [];

/** Notes a ratio and whether it keeps to its bar. */
export function note(name, ratio, bar, detail) {
  rows.push({ name, ratio, bar, detail, ok: ratio <= bar });
  console.log(`${ratio <= bar ? 'ok  ' : 'OVER'}  ${name.padEnd(46)} ${ratio.toFixed(2)} (at most ${bar})   ${detail}`);
}

export function allKept() {
  return rows.every(({ ok }) => ok);
}

/** Writes what was measured into docs/performance.md. */
export function writePerformance() {
  const cell = (text) => String(text).replaceAll('|', '\\|');
  const table = (some) =>
    [
      '| work, and its floor | ratio | at most | measured |',
      '| --- | --- | --- | --- |',
      ...some.map(({ name, ratio, bar, detail, ok }) => {
        const reached = ok ? ratio.toFixed(2) : `**${ratio.toFixed(2)}**`;
        // What belongs to the line above is indented in a terminal.
        const shown = name.startsWith(' ') ? `… ${name.trim()}` : name;
        return `| ${cell(shown)} | ${reached} | ${bar} | ${cell(detail)} |`;
      }),
    ].join('\n');
  const [growth, others] = [rows.filter(isGrowth), rows.filter((row) => !isGrowth(row))];
  const machine = `${cpus().length} processors (${cpus()[0]?.model.trim() ?? 'unknown'}), Node ${process.versions.node}`;
  writeFileSync(
    new URL('../docs/performance.md', import.meta.url),
    `# Performance

Written by \`npm run bench\`; do not edit. Measured on ${machine}.
Whole processes are run in turns and their medians compared, so each figure is a ratio against a floor of the same run: what the
same work takes without batharon. A figure in bold is over its bar. Between runs the ratios vary by a tenth on an idle machine, those of short processes more.

## Against a floor

${table(others)}

## Growth

Each thing at three sizes, less what one of it takes. The ratio is that of the largest to the smallest, divided by how many times
larger it is: 1 is growth in proportion.

${table(growth)}
`,
  );
}

const isGrowth = ({ name }) => name.startsWith('growth: ');

export const ms = (value) => `${value.toFixed(0)} ms`;
