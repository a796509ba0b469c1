import { headerOf, type Header } from '../http/message.ts';
import { mediaTypeOf } from '../http/decode.ts';
import { isJsonType } from '../http/media-types.ts';
import { keysOfPointer, misfitWords } from '../schema/json-schemas.ts';
import { showValue } from '../value/show.ts';
import { valueAt, type Maybe, type Value } from '../value/value.ts';
import type { Contract } from './contract.ts';
import type { Placed, PlaceInFile } from './documents.ts';
import type { MediaType, Operation, ResponseDescription } from './operation.ts';
import { valueOfText } from './parameter-text.ts';

/** Something about a response that is not as described: where in the body, if it is there, and where in the description. */
export type Departure = Readonly<{
  keys?: readonly (string | number)[];
  message: string;
  at: PlaceInFile;
}>;

/** A response as far as it is judged; `json` is its body where it was read as JSON. */
export type JudgedResponse = Readonly<{
  status: number;
  headers: readonly Header[];
  hasBody: boolean;
  json: Maybe;
}>;

/** What of a response is not as its operation is described: status, media type, headers, body. Throws `DescriptionFault`. */
export function departuresOf(contract: Contract, operation: Operation, answer: JudgedResponse): readonly Departure[] {
  const described = responseFor(operation, answer.status);
  if (!described) {
    const known = operation.responses.map(({ status }) => status);
    const message = `The status ${answer.status} is not described; described are ${known.join(', ') || 'none'}`;
    return [{ message, at: operation.at }];
  }
  return [...headerDepartures(contract, described, answer), ...bodyDepartures(contract, described, answer)];
}

/** The description of a status: its own, that of its class, else the default (OpenAPI 3.1 section 4.8.16). */
export function responseFor({ responses }: Operation, status: number): ResponseDescription | undefined {
  const named = (name: string) => responses.find((each) => each.status === name);
  return named(String(status)) ?? named(`${Math.floor(status / 100)}XX`) ?? named('default');
}

/** The entry for a media type: the very one, one of its kind such as `text/*`, or any. */
export function contentFor(content: readonly MediaType[], type: string): MediaType | undefined {
  const plain = (each: MediaType) => mediaTypeOf(each.type).type;
  return (
    content.find((each) => plain(each) === type) ??
    content.find((each) => plain(each) === type.replace(/\/.*$/, '/*')) ??
    content.find((each) => plain(each) === '*/*')
  );
}

/** The schemas of the JSON body for a status: none where it is not described. */
export function jsonShapesFor(operation: Operation, status: number): readonly Placed[] {
  const content = responseFor(operation, status)?.content ?? [];
  const json = contentFor(content, 'application/json') ?? content.find(({ type }) => isJsonType(type));
  return json?.schema ? [json.schema] : [];
}

function headerDepartures(contract: Contract, described: ResponseDescription, answer: JudgedResponse): Departure[] {
  return described.headers.flatMap(({ name, required, schema, at }): readonly Departure[] => {
    // OpenAPI 3.1 section 4.8.17: the type of the body is said under content.
    if (/^content-type$/i.test(name)) return [];
    const text = headerOf(answer.headers, name);
    if (text === undefined) return required ? [{ message: `The header ${name} is missing`, at }] : [];
    if (!schema) return [];
    const unfit = contract.unfit(valueOfText(text, schema, contract.description), schema, 'response');
    return unfit.slice(0, 1).map(({ message, at: where }) => ({
      message: `The header ${name} ${message}, not ${showValue(text, 60)}`,
      at: where,
    }));
  });
}

function bodyDepartures(
  contract: Contract,
  { content, status, at }: ResponseDescription,
  { headers, hasBody, json }: JudgedResponse,
): readonly Departure[] {
  if (!hasBody) return [];
  const { type } = mediaTypeOf(headerOf(headers, 'content-type'));
  if (content.length === 0) return [{ message: `A body came, and none is described for ${status}`, at }];
  const described = contentFor(content, type);
  if (!described) {
    const known = content.map((each) => each.type).join(', ');
    return [{ message: `The media type ${type || '(none)'} is not described; described is ${known}`, at }];
  }
  if (json === undefined || !described.schema) return [];
  return contract.unfit(json, described.schema, 'response').map((misfit) => {
    const keys = keysOfPointer(misfit.pointer, json as Value);
    return { keys, message: misfitWords(misfit, valueAt(json, keys)), at: misfit.at };
  });
}
