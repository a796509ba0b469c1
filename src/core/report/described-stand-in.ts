import type { Contract } from '../contract/contract.ts';
import { DescriptionFault } from '../contract/documents.ts';
import { pathValues, segmentsOf } from '../contract/find-operation.ts';
import { requestDepartures, type KnownBody, type KnownParameter } from '../contract/judge-request.ts';
import type { MediaType, Operation, ResponseDescription } from '../contract/operation.ts';
import { bodySample, sampleOf } from '../contract/sample.ts';
import { isJsonType } from '../http/media-types.ts';
import { mediaTypeOf } from '../http/decode.ts';
import { headerOf, type Header } from '../http/message.ts';
import { readJson } from '../value/json-read.ts';
import { toPlain } from '../value/plain.ts';
import type { AskedRequest, StandInAnswer } from './stand-in.ts';

/**
 * Answers as an API description says: by its examples, else by values that fit its schemas. What does not fit the operation is
 * refused with a problem document (RFC 9457) that says why. Any credential is accepted.
 */
export class DescribedStandIn {
  constructor(private readonly contract: Contract) {}

  /** Operations that it answers for. */
  get size(): number {
    return this.contract.description.operations.length;
  }

  answer(request: AskedRequest): StandInAnswer {
    const { method, target } = request;
    const { index } = this.contract;
    const [path = '/'] = target.split('?');
    const segments = segmentsOf(path);
    const operation =
      index.find(method, '', segments) ?? (method === 'HEAD' ? index.find('GET', '', segments) : undefined);
    if (operation) return this.answerOf(operation, segments, request);
    const methods = index.methodsAt('', segments);
    if (methods.length > 0) return problem(405, `${path} has ${methods.join(', ')}`, [['Allow', methods.join(', ')]]);
    const near = index.nearest(method, path);
    return { unknown: near ? `The nearest is ${near.name}` : 'The description has no such operation' };
  }

  private answerOf(operation: Operation, segments: readonly string[], request: AskedRequest): StandInAnswer {
    try {
      const wrong = requestDepartures(this.contract, operation, {
        query: [...new URLSearchParams(request.target.split('?')[1] ?? '')].map(parameter),
        headers: (request.headers ?? []).map(parameter),
        path: pathValues(operation, segments),
        isOpen: false,
        body: bodyOf(request),
      });
      const [first] = wrong;
      if (!first) return this.described(operation, request);
      const errors = wrong.map(({ message }) => message);
      return problem(400, `${operation.name}: ${first.message}`, [], { errors });
    } catch (error) {
      if (!(error instanceof DescriptionFault)) throw error;
      return problem(500, `The description is broken: ${this.contract.placeText(error.at)}: ${error.message}`);
    }
  }

  /** The first response of success, by its example or its schema. */
  private described(operation: Operation, request: AskedRequest): StandInAnswer {
    const { responses } = operation;
    const response = responses.find(({ status }) => /^2/.test(status)) ?? responses[0];
    if (!response) return problem(501, `${operation.name} describes no response`);
    const status = Number(response.status.replace(/XX$/, '00')) || 200;
    const content = contentOf(response, headerOf(request.headers ?? [], 'accept'));
    const given = this.headersOf(response);
    if (!content) return { status, headers: given, body: new Uint8Array(), tookMs: 0 };
    const { value, unfit } = bodySample(this.contract, content, { side: 'response', isFull: true });
    const text = typeof value === 'string' && !/json/i.test(content.type) ? value : JSON.stringify(value ?? null);
    const body = value === undefined ? new Uint8Array() : new TextEncoder().encode(text);
    const headers = [['Content-Type', content.type] as const, ...given];
    return { status, headers, body, tookMs: 0, ...(unfit === undefined ? {} : { note: unfit }) };
  }

  private headersOf({ headers }: ResponseDescription): readonly Header[] {
    return headers.flatMap(({ name, required, schema }): readonly Header[] => {
      if (!required || !schema || /^content-type$/i.test(name)) return [];
      return [[name, String(this.sample(schema))]];
    });
  }

  private sample(schema: NonNullable<MediaType['schema']>): unknown {
    return sampleOf(schema, this.contract.description, { side: 'response', isFull: true });
  }
}

function parameter([name, text]: readonly [string, string]): KnownParameter {
  return { name, text };
}

function bodyOf({ body, type }: AskedRequest): Readonly<{ type: string; value?: KnownBody }> | undefined {
  if (body === '') return undefined;
  const plain = mediaTypeOf(type).type;
  const read = isJsonType(plain) ? readJson(body) : undefined;
  return { type: plain, ...(read?.ok ? { value: { value: toPlain(read.value), unknown: [] } } : {}) };
}

/** The media type that is asked for, else JSON, else the first. */
function contentOf({ content }: ResponseDescription, accept: string | undefined): MediaType | undefined {
  const wanted = (accept ?? '').split(',').map((each) => mediaTypeOf(each).type);
  const plain = (each: MediaType) => mediaTypeOf(each.type).type;
  return (
    wanted.map((type) => content.find((each) => plain(each) === type)).find(Boolean) ??
    content.find(({ type }) => isJsonType(type)) ??
    content[0]
  );
}

function problem(status: number, detail: string, headers: readonly Header[] = [], more: object = {}): StandInAnswer {
  const text = JSON.stringify({ type: 'about:blank', title: 'Not as described', status, detail, ...more });
  return {
    status,
    headers: [['Content-Type', 'application/problem+json'], ...headers],
    body: new TextEncoder().encode(text),
    tookMs: 0,
    note: detail,
  };
}
