import { spawn, type ChildProcess } from 'node:child_process';
import { PROGRAM, type Folder } from './program.ts';

type Serving = Readonly<{ url: string; out(): string; stop(): Promise<number | null> }>;

/** The program answering in place of a server, until it is stopped. */
export async function serve(folder: Folder, ...args: readonly string[]): Promise<Serving> {
  const child: ChildProcess = spawn(process.execPath, [PROGRAM, 'serve', ...args], { cwd: folder.path });
  let out = '';
  const url = await new Promise<string>((resolve, reject) => {
    child.stdout!.on('data', (data: Buffer) => {
      out += String(data);
      const found = /http:\/\/127\.0\.0\.1:\d+/.exec(out);
      if (found && out.includes('Ctrl-C')) resolve(found[0]);
    });
    child.on('exit', () => reject(new Error(out)));
  });
  const stop = () =>
    new Promise<number | null>((resolve) => {
      child.on('close', resolve);
      child.kill('SIGINT');
    });
  return { url, out: () => out, stop };
}
