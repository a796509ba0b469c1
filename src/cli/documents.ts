import { readFileSync } from 'node:fs';
import path from 'node:path';
import { readJson } from '../core/value/json-read.ts';
import { stepName } from '../core/report/history.ts';
import type { Value } from '../core/value/value.ts';
import type { Io } from './io.ts';
import { openRecord, responseWithBody } from './record.ts';
import { UsageFault } from './usage-fault.ts';
import { openWorkspace } from './workspace.ts';

export type DocumentOptions = Readonly<{ file?: string; run?: string; call?: string }>;

/** A JSON document to search: a file, standard input, or a recorded response and the call that it belongs to. */
export type SearchedDocument = Readonly<{
  value: Value;
  name: string;
  call: string | undefined;
  /** The same with numbers in their source text, which takes longer to read. */
  exactly(): Value;
}>;

export async function searchedDocument(options: DocumentOptions, io: Io): Promise<SearchedDocument> {
  const { text, name, call } = await textOf(options, io);
  const exactly = (): Value => {
    const json = readJson(text);
    if (json.ok) return json.value;
    throw notJson(name, json);
  };
  try {
    return { value: JSON.parse(text.replace(/^\ufeff/, '')) as Value, name, call, exactly };
  } catch {
    // Our own reader says where and why.
    return { value: exactly(), name, call, exactly };
  }
}

function notJson(name: string, json: Readonly<{ message: string; offset: number }>): UsageFault {
  return new UsageFault('not-decodable', `${name} is no JSON: ${json.message}, at character ${json.offset + 1}`);
}

async function textOf(
  { file, run, call }: DocumentOptions,
  io: Io,
): Promise<{ text: string; name: string; call: string | undefined }> {
  if (file === '-') return { text: await io.readInput(), name: 'standard input', call: undefined };
  if (file !== undefined) {
    try {
      return { text: readFileSync(path.resolve(io.cwd, file), 'utf8'), name: file, call: undefined };
    } catch {
      throw new UsageFault('file-not-found', `The file ${file} is not there`);
    }
  }
  const record = openRecord(openWorkspace(io.cwd), run);
  const found = responseWithBody(record, call);
  if (found) {
    const step = stepName(found.step);
    return {
      text: new TextDecoder().decode(found.content),
      name: `the response of ${step}, run ${record.id}`,
      call: step,
    };
  }
  const what = call === undefined ? 'response with a body' : `response of "${call}"`;
  throw new UsageFault(
    'call-not-found',
    `The record ${record.id} has no ${what}`,
    'See what it has with: batharon look',
  );
}
