import type { Contract } from '../contract/contract.ts';
import type { Description } from '../contract/description.ts';
import type { MediaType, Operation, Parameter } from '../contract/operation.ts';
import { membersOf } from '../contract/plain.ts';
import { bodySample, sampleOf } from '../contract/sample.ts';
import { isJsonType } from '../http/media-types.ts';
import { readJson } from '../value/json-read.ts';
import type { Value } from '../value/value.ts';
import { newApi, type Refused } from './described-api.ts';
import { FreeNames, type Draft, type DraftGround } from './draft.ts';
import { mark } from './marks.ts';
import type { DraftBody, DraftRequest } from './request.ts';
import { SecretBook } from './secret-book.ts';
import { securityOf, type Security } from './security.ts';
import { callName, inputsOf, neededBy, type Inputs } from './operation-inputs.ts';
import type { TakenRequest } from './take.ts';
import { authOf, callLines, type HowSent } from './write-call.ts';

/** What a draft of operations is told beside the description. */
type OperationsAround = Readonly<{
  ground: DraftGround;
  /** The API of the project that is held to the description already, or that has one of its URLs. */
  known: string | undefined;
  /** The name of the description from the project file. */
  file: string;
  /** Where the API is, when the description does not say. */
  url: string | undefined;
  apiName: string;
  isKnownSecret(name: string): boolean;
}>;

/** Calls of operations: required parameters as inputs, bodies by example or schema, an expectation on the status. */
export function draftOfOperations(
  contract: Contract,
  operations: readonly Operation[],
  around: OperationsAround,
): Draft | Refused {
  const { description } = contract;
  const { ground, known, apiName } = around;
  const api = known ?? apiName;
  const secrets = new SecretBook(ground.secrets);
  const report = new Set<string>();
  const security = { description, api, secrets, isKnown: around.isKnownSecret };
  // An API that is there authenticates as its project says.
  const ofApi = known === undefined ? securityOf(description.security, security) : NO_SECURITY;
  const added = known === undefined ? newApi(description, api, ofApi.schemes, around) : undefined;
  if (added && 'message' in added) return added;
  for (const note of ofApi.notes) report.add(note);
  if (added) report.add(`contract: the API ${api} is held to ${around.file}`);
  const inputs = inputsOf(operations, ground.names, description);
  const names = new FreeNames(ground.calls);
  const calls = operations.map((operation, i) => {
    const name = names.free((i === 0 ? ground.callName : undefined) ?? callName(operation));
    const own = saysOtherwise(operation, description) ? securityOf(operation.security!, security) : undefined;
    for (const note of own?.notes ?? []) report.add(`${operation.name}: ${note}`);
    const taken = takenOf(operation, inputs, contract, report);
    const saysApi = ground.chainApi !== undefined && ground.chainApi !== api;
    const lines = callLines(taken, name, NOTHING_SHARED, {
      api: saysApi ? api : undefined,
      keeps: [],
      status: successOf(operation),
      hasApi: true,
    });
    const redirects = (successOf(operation) ?? 0) >= 300 ? ['redirects: stop'] : [];
    return { name, api, lines: [...lines, ...redirects, ...ownAuth(own)] };
  });
  for (const { name, default: said, about } of inputs.all)
    report.add(`input: ${name}${said === undefined ? '' : ` (${said})`}${about === undefined ? '' : `  ${about}`}`);
  for (const { name } of secrets.found) report.add(`secret: ${name}`);
  return {
    apis: added ? [added] : [],
    calls,
    keeps: [],
    inputs: inputs.all.filter(({ name }) => !ground.names.has(name)),
    secrets: secrets.found,
    api,
    report: [...report],
  };
}

const NOTHING_SHARED: HowSent = { credentials: new Set(), headers: new Map() };

const NO_SECURITY: Security = { schemes: [], notes: [] };

/** Whether an operation authenticates in another way than the description says for all. */
function saysOtherwise({ security }: Operation, description: Description): boolean {
  return security !== undefined && JSON.stringify(security) !== JSON.stringify(description.security);
}

/** The lines by which a call says how it authenticates, where its operation says otherwise. */
function ownAuth(own: Security | undefined): readonly string[] {
  if (!own) return [];
  return own.schemes.length === 0 ? ['auth: none'] : authOf(own.schemes);
}

/** The first status of success that is described. */
function successOf({ responses }: Operation): number | undefined {
  const found = responses.find(({ status }) => /^[23]\d\d$/.test(status));
  return found && Number(found.status);
}

/** A request in which marks stand for the inputs. */
function takenOf(operation: Operation, inputs: Inputs, contract: Contract, report: Set<string>): TakenRequest {
  const { description } = contract;
  const needed = neededBy(operation);
  const of = (place: Parameter['in']) =>
    needed
      .filter((each) => each.in === place)
      .flatMap((each) => writtenParameter(each, mark(inputs.nameOf(operation, each)), description));
  const url = needed
    .filter((each) => each.in === 'path')
    .reduce((path, each) => path.replace(`{${each.name}}`, mark(inputs.nameOf(operation, each))), operation.path);
  const optional = operation.parameters.filter(({ required, in: place }) => !required && place === 'query');
  if (optional.length > 0) report.add(`${operation.name} also takes ${optional.map(({ name }) => name).join(', ')}`);
  const body = bodyOf(operation, contract, report);
  const request: DraftRequest = {
    method: operation.method,
    url,
    query: of('query'),
    rawQuery: of('query')
      .map(([name, value]) => `${encodeURIComponent(name)}=${value}`)
      .join('&'),
    headers: of('header'),
    body: body?.draft,
    basic: undefined,
    timeout: undefined,
  };
  return { request, json: body?.json, credentials: [], basic: undefined };
}

/** A parameter as `query` writes it: an object of the style `deepObject` member by member. */
function writtenParameter(
  { name, style, schema }: Parameter,
  value: string,
  description: Description,
): readonly (readonly [string, string])[] {
  if (style !== 'deepObject' || !schema) return [[name, value]];
  const sample = sampleOf(schema, description, { side: 'request', isFull: false });
  const members = membersOf(sample);
  return members.length === 0 ? [[name, value]] : members.map(([member, each]) => [`${name}[${member}]`, String(each)]);
}

/** The body of an operation: its example, else what its schema requires; and as a value where it is JSON. */
function bodyOf(
  { body, name }: Operation,
  contract: Contract,
  report: Set<string>,
): Readonly<{ draft: DraftBody; json: Value | undefined }> | undefined {
  const content = body && preferred(body.content);
  if (!content) return undefined;
  const { type, example } = content;
  const { value: sample, unfit } = requiredBody(contract, content);
  if (unfit !== undefined) report.add(`${name}: ${unfit}`);
  const from = example === undefined || unfit !== undefined ? 'what its schema requires' : 'its example';
  report.add(`${name}: body ${type}, ${from}`);
  if (isJsonType(type)) {
    const text = JSON.stringify(sample ?? null);
    const read = readJson(text);
    return { draft: { kind: 'json', text, type }, json: read.ok ? read.value : undefined };
  }
  const fields = membersOf(sample).map(([field, value]) => [field, fieldText(value)] as const);
  if (isForm(type)) return { draft: { kind: 'form', fields, type: undefined }, json: undefined };
  if (isMultipart(type))
    return {
      draft: { kind: 'multipart', fields: fields.map(([each, text]) => ({ name: each, text })) },
      json: undefined,
    };
  if (/^text\/|xml/i.test(type))
    return { draft: { kind: 'text', text: fieldText(sample ?? ''), type }, json: undefined };
  return { draft: { kind: 'file', path: 'body.bin', type }, json: undefined };
}

/** The example, else what is required; all that there is where nothing is. */
function requiredBody(contract: Contract, content: MediaType): ReturnType<typeof bodySample> {
  const required = bodySample(contract, content, { side: 'request', isFull: false });
  if (membersOf(required.value).length > 0) return required;
  return { ...required, ...bodySample(contract, content, { side: 'request', isFull: true }) };
}

function fieldText(value: unknown): string {
  return typeof value === 'string' ? value : JSON.stringify(value);
}

function preferred(content: readonly MediaType[]): MediaType | undefined {
  const order = [isJsonType, isForm, isMultipart];
  return order.map((fits) => content.find(({ type }) => fits(type))).find(Boolean) ?? content[0];
}

function isForm(type: string): boolean {
  return /x-www-form-urlencoded/i.test(type);
}

function isMultipart(type: string): boolean {
  return /^multipart\//i.test(type);
}
