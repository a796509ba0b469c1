import { copyFileSync, existsSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { runFolder } from '../adapters/journal-files.ts';
import { readRun } from '../adapters/journal-reader.ts';
import type { EventOf } from '../core/journal/events.ts';

const FOLDER = 'written';

/** Keeps the rows that a slice wrote beside its journal, so that they come together with those of the others. */
export function keepWritten(recordFolder: string, run: string): void {
  const begun = new Map<string, EventOf<'file'>>();
  for (const event of readRun(recordFolder, run)?.journal ?? []) {
    if (event.type !== 'file') continue;
    if (event.before) begun.set(event.path, begun.get(event.path) ?? event);
    if (event.rows !== undefined) keep(recordFolder, run, event.path, begun.get(event.path));
  }
}

function keep(recordFolder: string, run: string, name: string, begun: EventOf<'file'> | undefined): void {
  const file = path.resolve(path.dirname(recordFolder), name);
  if (!existsSync(file)) return;
  const folder = path.join(runFolder(recordFolder, run), FOLDER);
  mkdirSync(folder, { recursive: true, mode: 0o700 });
  const copy = path.join(folder, encodeURIComponent(name));
  const before = begun?.op === 'appended' ? (begun.before?.size ?? 0) : 0;
  if (before === 0) copyFileSync(file, copy);
  else {
    // Of what was there before only the header belongs to the rows behind it.
    const bytes = readFileSync(file);
    const header = /\.[ct]sv$/i.test(name) ? bytes.subarray(0, bytes.indexOf(10) + 1) : Buffer.alloc(0);
    writeFileSync(copy, Buffer.concat([header, bytes.subarray(before)]), { mode: 0o600 });
  }
}

/** What a slice wrote to a file of a name; nothing where it wrote none. */
export function writtenIn(recordFolder: string, run: string, name: string): string | undefined {
  const copy = path.join(runFolder(recordFolder, run), FOLDER, encodeURIComponent(name));
  return existsSync(copy) ? readFileSync(copy, 'utf8') : undefined;
}

/** The names of the files that a slice wrote rows to. */
export function namesWritten(recordFolder: string, run: string): readonly string[] {
  const folder = path.join(runFolder(recordFolder, run), FOLDER);
  return existsSync(folder) ? readdirSync(folder).map((name) => decodeURIComponent(name)) : [];
}
