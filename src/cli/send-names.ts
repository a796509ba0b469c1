import type { Io } from './io.ts';
import { CommandError } from '../runner/command-error.ts';
import { type Workspace } from '../runner/workspace.ts';
import { boundNames, valueOfBound } from '../core/report/bound.ts';
import { showValue } from '../core/value/show.ts';
import type { Value } from '../core/value/value.ts';
import { evaluate } from '../core/expression/evaluate.ts';
import { frameOf } from '../core/expression/frame.ts';
import { parseExpression } from '../core/expression/parse.ts';
import { readJson } from '../core/value/json-read.ts';
import type { SentCall } from './send-call.ts';
import { hasRuns, openRecord, responseWithBody, wholeValue } from '../runner/record.ts';

/** The names in the placeholders of a request that the last run bound, and their values; which they are is said. */
export function namesFromLastRun(
  lines: readonly string[],
  workspace: Workspace,
  run: string | undefined,
  io: Io,
): ReadonlyMap<string, Value> {
  const placeholders = lines.join('\n').match(/\{[^{}]*\}/g) ?? [];
  const words = new Set(
    placeholders.flatMap((placeholder) => placeholder.match(/[A-Za-z_\u0080-\uffff][\w\u0080-\uffff]*/g) ?? []),
  );
  words.delete('secret');
  words.delete('setting');
  const values = new Map<string, Value>();
  if (words.size === 0 || (run === undefined && !hasRuns(workspace))) return values;
  const record = openRecord(workspace, run ?? 'last');
  for (const bound of boundNames(record.events)) {
    if (!words.has(bound.name)) continue;
    const value = valueOfBound(bound) ?? wholeValue(bound, record);
    if (value === undefined) {
      throw new CommandError(
        'found-nothing',
        `"${bound.name}" is a secret of run ${record.id}, and secrets are never recorded`,
        'Write {secret.NAME} instead.',
      );
    }
    values.set(bound.name, value);
    io.exit.err(`${bound.name} is ${showValue(value, 60)}, from run ${record.id}\n`);
  }
  return values;
}

/** A path into the last response, in braces: `{$.id}`. */
const OF_RESPONSE = /\{(\$[^{}]*)\}/g;

/** A call in which paths into the last response are names, with the values that they found; what they found is said. */
export function withLastResponse(call: SentCall, workspace: Workspace, io: Io): SentCall {
  const paths = [...new Set(call.lines.flatMap((line) => [...line.matchAll(OF_RESPONSE)].map((found) => found[1]!)))];
  if (paths.length === 0) return call;
  const record = openRecord(workspace, undefined);
  const { content } = responseWithBody(record, undefined);
  const json = readJson(new TextDecoder().decode(content));
  if (!json.ok) throw new CommandError('not-decodable', `The last response, in ${record.id}, is not JSON`);
  const values = new Map<string, Value>();
  paths.forEach((path, i) => {
    const { tree } = parseExpression(path);
    const value =
      tree &&
      evaluate(
        tree,
        frameOf(json.value, () => undefined),
      ).value;
    if (value === undefined)
      throw new CommandError(
        'found-nothing',
        `${path} found nothing in the last response, of ${record.id}`,
        'To see its paths: batharon look --paths',
      );
    values.set(`of_response_${i + 1}`, value);
    io.exit.err(`${path} is ${showValue(value, 60)}, from ${record.id}\n`);
  });
  const named = (line: string) =>
    line.replace(OF_RESPONSE, (_all, path: string) => `{of_response_${paths.indexOf(path) + 1}}`);
  return { ...call, lines: call.lines.map(named), values };
}
