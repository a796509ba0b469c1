import type { RunHost } from '../core/engine/host.ts';
import type { RowsFile, SavingFile } from '../core/ports.ts';

/** The same host, but rows are written nowhere: of a run that does not do all that the chain says, no file is to tell. */
export function withoutRows(host: RunHost): RunHost {
  return { ...host, rowsFile: noRows, beside: (file) => withoutRows(host.beside(file)) };
}

/** The same, and no response is saved either. */
export function withoutFiles(host: RunHost): RunHost {
  return { ...host, rowsFile: noRows, saveFile: noFile, beside: (file) => withoutFiles(host.beside(file)) };
}

const noRows = (path: string): RowsFile => ({
  path,
  isNowhere: true,
  read: () => undefined,
  size: () => 0,
  stamp: () => '',
  append: () => {},
  cut: () => {},
  replace: () => {},
  withLock: (work) => work(),
});

const noFile = (path: string): SavingFile => ({
  path,
  isThere: false,
  write: () => 'more',
  place: () => {},
  finish: async () => ({ path, size: 0, sha256: '', replaced: false }),
  abandon: async () => {},
});
