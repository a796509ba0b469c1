import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import open from 'open';

/** A new folder for files that are opened, for their owner alone. */
export function folderToOpen(): string {
  return mkdtempSync(path.join(tmpdir(), 'batharon-'));
}

/** Opens a file with the program that the system has for it. Gives whether there is one. */
export async function openWithSystem(file: string): Promise<boolean> {
  try {
    await open(file);
    return true;
  } catch {
    return false;
  }
}
