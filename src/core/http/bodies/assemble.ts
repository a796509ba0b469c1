import { diagnosticIn, type Source } from '../../diagnostics/source.ts';
import { FillFault } from '../../template/fill.ts';
import type { RequestBody, RequestFile } from '../message.ts';
import { refusedFile, type BodyHost } from './definition.ts';

/** Bytes up to which a body is held; a larger one is read while it is sent. */
const MAX_HELD = 1024 * 1024;

type Part = string | RequestFile;

/** A body of texts and files, one after another. */
export function assembled(parts: readonly Part[]): RequestBody {
  if (parts.every((part) => typeof part === 'string')) return parts.join('');
  const encoder = new TextEncoder();
  const sources = parts.map((part) => (typeof part === 'string' ? encoder.encode(part) : part));
  const size = sources.reduce((sum, source) => sum + (isBytes(source) ? source.length : source.size), 0);
  const pieces = function* () {
    for (const source of sources) {
      if (isBytes(source)) yield source;
      else yield* source.pieces();
    }
  };
  const chunks = async function* () {
    for (const source of sources) {
      if (isBytes(source)) yield source;
      else yield* source.chunks();
    }
  };
  return size <= MAX_HELD ? joined(pieces(), size) : { size, pieces, chunks };
}

function isBytes(source: Uint8Array | RequestFile): source is Uint8Array {
  return source instanceof Uint8Array;
}

/** The pieces of a body in one. */
export function joined(pieces: Iterable<Uint8Array>, size: number): Uint8Array {
  const all = new Uint8Array(size);
  let at = 0;
  for (const piece of pieces) {
    all.set(piece.subarray(0, size - at), at);
    at += piece.length;
  }
  return all;
}

/** Opens a file of a body. Throws `FillFault` at the place that names it. */
export function opened(path: string, source: Source, host: BodyHost): RequestFile {
  const file = host.openFile(path);
  if ('pieces' in file) return file;
  throw new FillFault(diagnosticIn(source, refusedFile(file, source)));
}
