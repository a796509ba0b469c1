import { spawnSync } from 'node:child_process';
import { ValueUnavailable } from '../core/expression/fault.ts';
import { visible } from '../core/value/visible.ts';

/** Time that a command has to print a secret, in milliseconds. */
const LIMIT_MS = 10_000;

/**
 * Runs the command of a secret in the project's folder, without a shell, and gives what it prints, less the line break at its
 * end. Throws `ValueUnavailable` where it gives nothing.
 */
export function commandOutput(
  secret: string,
  [program = '', ...rest]: readonly string[],
  folder: string | undefined,
  environment: NodeJS.ProcessEnv,
  timeout = LIMIT_MS,
): string {
  const { error, status, signal, stdout, stderr } = spawnSync(program, rest, {
    cwd: folder,
    env: environment,
    encoding: 'utf8',
    stdio: ['ignore', 'pipe', 'pipe'],
    timeout,
    killSignal: 'SIGKILL',
    maxBuffer: 1024 * 1024,
    windowsHide: true,
  });
  const fail = (why: string): never => {
    const message = `The command ${program}, which gives the secret ${secret}, ${why}`;
    const advice = `Run it by itself to see why, or set ${secret} in the environment or in secrets.env.`;
    throw new ValueUnavailable({ code: 'secret-command-failed', message, advice });
  };
  const { code } = (error ?? {}) as NodeJS.ErrnoException;
  if (code === 'ETIMEDOUT') fail(`did not end within ${timeout / 1000}s`);
  if (code === 'ENOENT') fail('was not found');
  if (error) fail(`could not be run: ${error.message}`);
  const said = visible(stderr.trim().split('\n')[0]!.slice(0, 200));
  if (status !== 0) fail(`ended with ${status ?? signal}${said === '' ? '' : `: ${said}`}`);
  const value = stdout.replace(/\r?\n$/, '');
  return value.trim() === '' ? fail('printed nothing') : value;
}
