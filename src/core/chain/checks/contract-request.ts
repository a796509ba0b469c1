import type { KnownBody, KnownParameter, KnownRequest, RequestDeparture } from '../../contract/judge-request.ts';
import { pathValues } from '../../contract/find-operation.ts';
import type { Operation } from '../../contract/operation.ts';
import { pointerKeys, pointerPart } from '../../value/json-pointer.ts';
import type { Source } from '../../diagnostics/source.ts';
import { toPlain } from '../../value/plain.ts';
import { textOf } from '../../value/text.ts';
import type { Named } from '../../schema/leaves.ts';
import { pathSegments, plainPieces, queryPieces } from '../../template/target-pieces.ts';
import { plainTextOf, type ValueTemplate } from '../../template/template.ts';
import type { CallStep } from '../model.ts';
import type { Place } from '../place.ts';

/** What is known of a call's request before it is sent. */
export function knownRequest(call: CallStep, operation: Operation, place: Place): KnownRequest {
  const { line, query, headers, body } = call.request;
  const { endpoint } = place;
  const whole = [...query, ...headers].some(({ whole: isWhole }) => isWhole);
  // What the API sends by itself, and what authenticates, is known to be there.
  const ofApi = [...(endpoint?.query ?? []), ...(endpoint?.headers ?? [])].map(({ name }) => name);
  const credentials = endpoint?.auth?.carriers ?? [];
  const described = operation.parameters;
  const beside = [...ofApi, ...credentials, ...keyHeader(call)].filter((name) =>
    described.some((each) => each.name.toLowerCase() === name.toLowerCase()),
  );
  const known = beside.map((name) => ({ name, text: undefined }));
  const written = queryPieces(line!.target).map(([name, pieces]) => ({ name, text: plainPieces(pieces) }));
  return {
    query: [...written, ...named(query), ...known],
    headers: [...named(headers), ...known],
    path: pathValues(operation, pathSegments(line!.target)),
    isOpen: whole || call.paging?.query !== undefined,
    body: body && { type: typeOfBody(call), ...(body.json ? { value: knownBody(body.json) } : {}) },
  };
}

function keyHeader({ request: { idempotencyKey } }: CallStep): readonly string[] {
  return idempotencyKey === undefined ? [] : ['Idempotency-Key'];
}

function typeOfBody({ request: { body, headers } }: CallStep): string {
  const said = headers.find(({ name }) => /^content-type$/i.test(name))?.value;
  const own = said?.kind === 'text' ? plainTextOf(said) : undefined;
  return own ?? body!.ownType?.text ?? body!.type('').split(';')[0]!.trim();
}

function named(entries: Named<ValueTemplate>): readonly KnownParameter[] {
  return entries
    .filter(({ whole }) => !whole)
    .flatMap(({ name, value }): readonly KnownParameter[] => {
      const values = value.kind === 'list' ? value.items : [value];
      const texts = values.map(textOfTemplate);
      return [{ name, text: texts.some((each) => each === undefined) ? undefined : texts.join(',') }];
    });
}

function textOfTemplate(value: ValueTemplate): string | undefined {
  if (value.kind === 'text') return plainTextOf(value);
  if (value.kind !== 'constant' || value.value === null) return undefined;
  const text = textOf(value.value);
  return typeof text === 'string' ? text : undefined;
}

/** A JSON body with null in place of what a placeholder gives. */
function knownBody(template: ValueTemplate): KnownBody {
  const unknown: string[] = [];
  const plain = (at: ValueTemplate, pointer: string): unknown => {
    switch (at.kind) {
      case 'constant':
        return toPlain(at.value);
      case 'text': {
        const text = plainTextOf(at);
        if (text === undefined && at.pieces.length > 0) unknown.push(pointer);
        return text ?? (at.pieces.length === 0 ? '' : null);
      }
      case 'list':
        return at.items.map((item, i) => plain(item, pointer + pointerPart(i)));
      case 'object':
        return Object.fromEntries(at.members.map(([name, each]) => [name, plain(each, pointer + pointerPart(name))]));
    }
  };
  return { value: plain(template, ''), unknown };
}

/** Where a part of a request stands in its file; as near as is known. */
export function sourceOfPart(call: CallStep, part: RequestDeparture['part'], name: string): Source {
  const { line, query, headers, body } = call.request;
  const entries = part === 'query' ? query : part === 'header' ? headers : [];
  const entry = entries.find((each) => each.name.toLowerCase() === name.toLowerCase());
  if (entry) {
    const { file, nameRange } = entry;
    return { file, text: entry.name, locate: ([from, to]) => [nameRange[0] + from, nameRange[0] + to] };
  }
  const at = part === 'body' && body?.json ? textAt(body.json, pointerKeys(name)) : undefined;
  return at ?? line!.source;
}

function textAt(template: ValueTemplate, keys: readonly string[]): Source | undefined {
  let at: ValueTemplate | undefined = template;
  for (const key of keys) {
    if (at?.kind === 'object') at = at.members.find(([name]) => name === key)?.[1];
    else if (at?.kind === 'list') at = at.items[Number(key)];
    else return undefined;
  }
  return at?.kind === 'text' ? at.source : undefined;
}
