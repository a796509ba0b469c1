import { readJson } from '../core/value/json-read.ts';
import type { Value } from '../core/value/value.ts';
import { exchangesOf } from '../core/report/exchange.ts';
import { isNamed, isUndo } from '../core/journal/address.ts';
import { inferredSchema } from '../core/schema/infer.ts';
import { counted } from '../core/value/show.ts';
import { bodyText, openRecord } from '../runner/record.ts';
import { CommandError } from '../runner/command-error.ts';
import type { Workspace } from '../runner/workspace.ts';
import type { Io } from './io.ts';

/**
 * The JSON Schema that every recorded response of a call fits, in some runs: all of them that were answered with 2xx and
 * JSON. Throws `CommandError` where there is none.
 */
export function printRecordedSchema(
  call: string | undefined,
  runs: readonly string[],
  workspace: Workspace,
  io: Io,
): string {
  if (call === undefined)
    throw new CommandError('call-not-found', 'export schema needs a call', 'Example: batharon export schema vessels');
  const records =
    runs.length === 0 ? [openRecord(workspace, undefined, io)] : runs.map((id) => openRecord(workspace, id));
  const found = records.flatMap((record) =>
    exchangesOf([...record.journal])
      .filter(({ sent: { step, purpose } }) => purpose === 'call' && isNamed(step, call) && !isUndo(step))
      .map(({ answered }) => ({ answered, text: answered && bodyText(record, answered.body) })),
  );
  const where = records.map(({ id }) => id).join(' and ');
  if (found.length === 0)
    throw new CommandError('call-not-found', `${where} has no call "${call}"`, 'To see what it has: batharon look');
  const values = found.flatMap(({ answered, text }) =>
    answered && answered.status < 300 && text !== undefined ? valueIn(text) : [],
  );
  if (values.length === 0) {
    const message = `${call} has no recorded response with a 2xx status and JSON in ${where}`;
    throw new CommandError('call-not-found', message, `To see what it was answered: batharon look ${call}`);
  }
  const schema = { $schema: 'https://json-schema.org/draft/2020-12/schema', title: call, ...inferredSchema(values) };
  io.exit.err(`from ${counted(values.length, 'response')}; in a chain: expect: [{ schema: ${call}.schema.json }]\n`);
  return `${JSON.stringify(schema, null, 2)}\n`;
}

function valueIn(text: string): readonly Value[] {
  const json = readJson(text);
  return json.ok ? [json.value] : [];
}
