import { fileURLToPath, pathToFileURL } from 'node:url';
import type { TextDocumentContentChangeEvent } from 'vscode-languageserver/node';
import { Lines, type Encoding } from './positions.ts';

/** A file that is open in the editor, as it is there. */
export type OpenFile = Readonly<{ uri: string; file: string; version: number; lines: Lines }>;

/** The files that are open, by their paths. */
export class Buffers {
  private readonly open = new Map<string, OpenFile>();
  /** What columns count; the editor says it before it opens anything. */
  encoding: Encoding = 'utf-16';

  set(uri: string, version: number, text: string): OpenFile {
    const buffer = { uri, version, file: fileOf(uri), lines: new Lines(text, this.encoding) };
    this.open.set(buffer.file, buffer);
    return buffer;
  }

  /** Takes a text for that of a file, without an editor that counts its versions. */
  put(file: string, text: string): void {
    this.open.set(file, { uri: uriOf(file), version: 0, file, lines: new Lines(text, this.encoding) });
  }

  /** Applies changes of an editor, each to what those before it have made. */
  change(uri: string, version: number, changes: readonly TextDocumentContentChangeEvent[]): OpenFile | undefined {
    const before = this.open.get(fileOf(uri));
    if (!before) return undefined;
    let { lines } = before;
    for (const change of changes) {
      if (!('range' in change)) {
        lines = new Lines(change.text, this.encoding);
        continue;
      }
      const [from, to] = [lines.offsetAt(change.range.start), lines.offsetAt(change.range.end)];
      lines = new Lines(lines.text.slice(0, from) + change.text + lines.text.slice(to), this.encoding);
    }
    const buffer = { ...before, version, lines };
    this.open.set(before.file, buffer);
    return buffer;
  }

  close(file: string): void {
    this.open.delete(file);
  }

  at(file: string): OpenFile | undefined {
    return this.open.get(file);
  }

  of(uri: string): OpenFile | undefined {
    return this.open.get(fileOf(uri));
  }

  all(): readonly OpenFile[] {
    return [...this.open.values()];
  }
}

export function fileOf(uri: string): string {
  return uri.startsWith('file:') ? fileURLToPath(uri) : uri;
}

export function uriOf(file: string): string {
  return pathToFileURL(file).href;
}
