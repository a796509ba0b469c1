/** The folder part of a path, with its slash; empty for a name alone. */
export function folderOf(path: string): string {
  return path.slice(0, Math.max(path.lastIndexOf('/'), path.lastIndexOf('\\')) + 1);
}

/** A path relative to a folder. */
export function joined(folder: string, path: string): string {
  return path.startsWith('/') ? path : folder + path;
}
