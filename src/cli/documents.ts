import { readFileSync } from 'node:fs';
import path from 'node:path';
import { stepName } from '../core/journal/address.ts';
import { readJson } from '../core/value/json-read.ts';
import type { Value } from '../core/value/value.ts';
import type { Io } from './io.ts';
import { openRecord, responseWithBody, type RecordedResponse } from '../runner/record.ts';
import type { Contract } from '../core/contract/contract.ts';
import { meaningOf } from '../core/contract/meaning.ts';
import { contractsIn } from '../runner/contracts.ts';
import { CommandError } from '../runner/command-error.ts';
import { openWorkspace } from '../runner/workspace.ts';

export type DocumentOptions = Readonly<{ file?: string; run?: string; call?: string }>;

/** A document to read: a file, standard input, or a recorded response with what stood beside it. */
export type Document = Readonly<{
  text: string;
  name: string;
  response: RecordedResponse | undefined;
  /** What the description of its API says of a place in it. */
  meaningAt?: ((keys: readonly (string | number)[]) => string | undefined) | undefined;
}>;

export async function openDocument({ file, run, call }: DocumentOptions, io: Io): Promise<Document> {
  if (file === '-') return { text: await io.readInput(), name: 'standard input', response: undefined };
  if (file !== undefined) {
    try {
      return { text: readFileSync(path.resolve(io.cwd, file), 'utf8'), name: file, response: undefined };
    } catch {
      throw new CommandError('file-not-found', `The file ${file} does not exist`);
    }
  }
  const workspace = openWorkspace(io.cwd);
  const record = openRecord(workspace, run, io);
  const response = responseWithBody(record, call);
  const name = `the response of ${stepName(response.step)}, run ${record.id}`;
  const text = new TextDecoder().decode(response.content);
  return { text, name, response, meaningAt: meaningIn(response, workspace.folder) };
}

/** What the operation of a response says of its members. */
function meaningIn({ operation: ref, answered }: RecordedResponse, folder: string): Document['meaningAt'] {
  const contract = ref && contractsIn(folder)(ref.file);
  const operation = contract && !('message' in contract) ? contract.description.operation(ref.name) : undefined;
  if (!operation) return undefined;
  return (keys) => meaningOf(contract as Contract, operation, answered.status, keys);
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
