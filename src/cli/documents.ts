import { readFileSync } from 'node:fs';
import path from 'node:path';
import { stepName } from '../core/journal/address.ts';
import { readJson } from '../core/value/json-read.ts';
import type { Value } from '../core/value/value.ts';
import type { Io } from './io.ts';
import { openRecord, responseWithBody, type RecordedResponse } from '../runner/record.ts';
import { CommandError } from '../runner/command-error.ts';
import { openWorkspace } from '../runner/workspace.ts';

export type DocumentOptions = Readonly<{ file?: string; run?: string; call?: string }>;

/** A document to read: a file, standard input, or a recorded response with what stood beside it. */
export type Document = Readonly<{ text: string; name: string; response: RecordedResponse | undefined }>;

export async function openDocument({ file, run, call }: DocumentOptions, io: Io): Promise<Document> {
  if (file === '-') return { text: await io.readInput(), name: 'standard input', response: undefined };
  if (file !== undefined) {
    try {
      return { text: readFileSync(path.resolve(io.cwd, file), 'utf8'), name: file, response: undefined };
    } catch {
      throw new CommandError('file-not-found', `The file ${file} does not exist`);
    }
  }
  const record = openRecord(openWorkspace(io.cwd), run, io);
  const response = responseWithBody(record, call);
  const name = `the response of ${stepName(response.step)}, run ${record.id}`;
  return { text: new TextDecoder().decode(response.content), name, response };
}

/** The value of a JSON document, its numbers in their source text. */
export function jsonOf({ text, name }: Document): Value {
  const json = readJson(text);
  if (json.ok) return json.value;
  throw new CommandError('not-decodable', `${name} is not JSON: ${json.message}, at character ${json.offset + 1}`);
}

/** The same by the engine's own parser, which is faster and gives up the source text of numbers. */
export function plainJsonOf(document: Document): Value {
  try {
    return JSON.parse(document.text.replace(/^\ufeff/, '')) as Value;
  } catch {
    // Our own reader says where and why.
    return jsonOf(document);
  }
}
