import path from 'node:path';
import { placeToWrite } from '../adapters/project-files.ts';
import type { Accept } from '../core/engine/asking.ts';
import type { Io } from './io.ts';
import type { Palette } from './view/palette.ts';
import { placeLines } from './view/failure.ts';
import type { Workspace } from '../runner/workspace.ts';

/** `--accept`: shows where a response differs from its file, asks, and writes the file when the answer is yes. */
export function acceptIn({ cwd, folder }: Workspace, chainFile: string, palette: Palette, io: Io): Accept {
  return async ({ file, content, record }) => {
    const place = placeToWrite(file, { folder, chainFile: path.resolve(cwd, chainFile), allowed: new Set() });
    if ('message' in place) {
      io.exit.err(`${place.message}\n`);
      return false;
    }
    const full = place.file;
    const shown = path.relative(cwd, full);
    const lines = record.places ? placeLines(record.places, palette, Math.max(40, io.columns - 8)) : [];
    io.exit.err(`\n${[`${shown}: ${record.message ?? 'does not exist'}`, ...lines].join('\n')}\n`);
    const { askYesNo } = await import('../adapters/prompts.ts');
    const yes = await askYesNo(`Write this response to ${shown}?`, io.exit);
    if (yes) io.exit.writeFile(full, content, 0o644);
    return yes;
  };
}
