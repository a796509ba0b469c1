import { createHash } from 'node:crypto';
import { createReadStream, existsSync, rmSync } from 'node:fs';
import path from 'node:path';
import type { LinesFile, OpenLines } from '../core/ports.ts';
import { linesIn } from '../core/value/lines.ts';
import { expectLittleHeld, expectMuchWork } from './compiler.ts';
import type { MaskedOutput } from './masked-output.ts';

/** Characters that are collected before they are written. */
const BATCH = 64 * 1024;
/** Bytes that are read at a time. */
const PIECE = 64 * 1024;

/** Files for lists that are too long to hold, in a folder that is made when the first one is: `gather-1.ndjson`. */
export function linesFilesIn(folder: string, exit: MaskedOutput): OpenLines {
  return (what) => {
    let number = 1;
    while (existsSync(path.join(folder, `${what}-${number}.ndjson`))) number++;
    return new Lines(path.join(folder, `${what}-${number}.ndjson`), exit);
  };
}

/** The same for what is not recorded: the folder is gone when the process ends. */
export function passingLinesFiles(recordFolder: string, exit: MaskedOutput): OpenLines {
  const folder = path.join(recordFolder, `lists-${process.pid}`);
  let isBegun = false;
  return (what) => {
    if (!isBegun) process.once('exit', () => rmSync(folder, { recursive: true, force: true }));
    isBegun = true;
    return linesFilesIn(folder, exit)(what);
  };
}

class Lines implements LinesFile {
  private readonly appender: ReturnType<MaskedOutput['appender']>;
  private readonly hash = createHash('sha256');
  private waiting = '';
  private size = 0;

  constructor(
    private readonly file: string,
    private readonly exit: MaskedOutput,
  ) {
    expectMuchWork();
    expectLittleHeld();
    this.appender = exit.appender(file);
  }

  add(line: string): boolean {
    const { masker } = this.exit;
    const isSecret = masker.isActive && masker.json(line) !== line;
    this.waiting += isSecret ? '\n' : `${line}\n`;
    if (this.waiting.length > BATCH) this.write();
    return !isSecret;
  }

  finish(): Readonly<{ file: string; size: number; sha256: string }> {
    this.write();
    this.appender.close();
    return { file: path.basename(this.file), size: this.size, sha256: this.hash.digest('hex') };
  }

  pieces(): AsyncIterable<readonly string[]> {
    return linesOf(this.file);
  }

  private write(): void {
    const data = Buffer.from(this.waiting);
    this.waiting = '';
    this.hash.update(data);
    this.size += data.length;
    this.appender.write(data);
  }
}

/** The lines of a file in pieces, without their ends. */
export function linesOf(file: string): AsyncIterable<readonly string[]> {
  return linesIn(createReadStream(file, { encoding: 'utf8', highWaterMark: PIECE }) as AsyncIterable<string>);
}
