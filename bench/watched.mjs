// A process and its memory: how long it takes, and what is resident of it (MiB) at its peak and in its first and last tenth.
import { spawn } from 'node:child_process';
import { readFileSync } from 'node:fs';

export async function watched(args, { expect = 0, ...options } = {}) {
  const started = performance.now();
  const child = spawn(process.execPath, args, { stdio: 'ignore', ...options });
  const seen = [];
  const look = setInterval(() => {
    try {
      const status = readFileSync(`/proc/${child.pid}/status`, 'utf8');
      const resident = Number(/VmRSS:\s+(\d+)/.exec(status)?.[1] ?? 0) / 1024;
      if (resident > 0) seen.push(resident);
    } catch {
      // It has just ended.
    }
  }, 50);
  const code = await new Promise((resolve) => child.once('exit', resolve));
  clearInterval(look);
  if (code !== expect) throw new Error(`${args.join(' ')} ended with ${code}`);
  const tenth = Math.ceil(seen.length / 10);
  const [first, last] = [seen.slice(0, tenth), seen.slice(-tenth)].map((each) => Math.max(...each));
  return { took: performance.now() - started, peak: Math.max(...seen), growth: last / first };
}
