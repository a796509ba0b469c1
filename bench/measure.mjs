// Whole processes, run in turns, their medians compared: what a user waits for, as ratios that hold on any machine.
import { spawnSync } from 'node:child_process';

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
  rows.push({ name, ratio, bar, ok: ratio <= bar });
  console.log(`${ratio <= bar ? 'ok  ' : 'OVER'}  ${name.padEnd(46)} ${ratio.toFixed(2)} (at most ${bar})   ${detail}`);
}

export function allKept() {
  return rows.every(({ ok }) => ok);
}

export const ms = (value) => `${value.toFixed(0)} ms`;
