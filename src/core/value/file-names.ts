/** The folder part of a path, with its slash; empty for a name alone. */
export function folderOf(path: string): string {
  return path.slice(0, Math.max(path.lastIndexOf('/'), path.lastIndexOf('\\')) + 1);
}

/** A path relative to a folder. */
export function joined(folder: string, path: string): string {
  return path.startsWith('/') ? path : folder + path;
}

/** Names that Windows takes for devices, whatever ending they have. */
const DEVICE = /^(?:con|prn|aux|nul|conin\$|conout\$|com[0-9\u00b9\u00b2\u00b3]|lpt[0-9\u00b9\u00b2\u00b3])(?:\.|$)/;
/** Characters that are shown as nothing, and that some file systems pass over. */
const UNSEEN = /[\u00ad\u200b-\u200f\u202a-\u202e\u2060-\u206f\ufeff]/g;
/** `GIT~1`: the short form under which a long name can be had. */
const SHORT_FORM = /~\d+(?:\.[^.]{0,3})?$/;
const OWN_FILE = /^(?:batharon(?:\.local)?\.ya?ml|secrets\.env|.*\.chain\.ya?ml)$/;

/**
 * Why a chain has no business with a file of its project, by its path in it: files of the project itself, hidden ones,
 * records and packages, in whatever case or form the name stands. Nothing for all others.
 */
export function whyProtected(path: string): string | undefined {
  const segments = path
    .split(/[/\\]+/)
    .filter((each) => each !== '' && each !== '.' && each !== '..')
    .map((each) => each.normalize('NFKC').replace(UNSEEN, '').toLowerCase());
  for (const segment of segments) {
    if (segment.startsWith('.')) return 'it is hidden';
    if (segment === 'node_modules') return 'it is below node_modules';
    if (SHORT_FORM.test(segment)) return 'it may be the short form of another name';
    const why = whyUnusable(segment);
    if (why !== undefined) return why;
  }
  return OWN_FILE.test(segments.at(-1) ?? '') ? 'it is a file of the project itself' : undefined;
}

/** Why a name means something else than a file on some system. */
function whyUnusable(segment: string): string | undefined {
  if (DEVICE.test(segment)) return 'it is the name of a device';
  if (/[:\u0000-\u001f\u007f]/.test(segment)) return 'a file name can have no colon and no control characters';
  return /[. ]$/.test(segment) ? 'a file name can end neither with a dot nor with a space' : undefined;
}
