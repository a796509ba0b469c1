import { DescriptionFault } from '../../contract/documents.ts';
import type { Contract } from '../../contract/contract.ts';
import { segmentsOf } from '../../contract/find-operation.ts';
import { departuresOf, type Departure } from '../../contract/judge-response.ts';
import type { Operation } from '../../contract/operation.ts';
import { wholeOf } from '../../diagnostics/source.ts';
import type { Endpoint } from '../../http/endpoint.ts';
import { splitUrl } from '../../http/message.ts';
import { shownUrl } from '../../http/shown-request.ts';
import { writtenPath } from '../../path/normalized.ts';
import type { ExpectRecord } from '../../journal/records.ts';
import type { RunHost } from '../host.ts';
import { placeOf } from '../places.ts';
import type { Judging } from './definition.ts';
import { placesOf } from './places.ts';

/** The operation that a request belongs to, of the description that its API is held to. */
type HeldTo = Readonly<{ contract: Contract; operation: Operation | undefined }>;

export function heldTo(
  endpoint: Endpoint | undefined,
  { method, url }: Readonly<{ method: string; url: string }>,
  host: RunHost,
): HeldTo | undefined {
  const contract = endpoint?.contract && host.contractOf(endpoint.contract.file.text);
  if (!contract || 'message' in contract) return undefined;
  const base = splitUrl(shownUrl(endpoint)).path.replace(/\/$/, '');
  const { path } = splitUrl(url);
  const below = path.startsWith(base) ? path.slice(base.length) : path;
  return { contract, operation: contract.index.find(method, base, segmentsOf(below)) };
}

/** A response is as its operation is described; with `mode: warn` what is not is a note. */
export function judgeContract(judging: Judging): readonly ExpectRecord[] {
  const { endpoint, answered, context, frame } = judging;
  const use = endpoint?.contract;
  if (!use || !answered) return [];
  const { request, response, isJson } = answered;
  const held = heldTo(endpoint, request, context.runHost);
  if (!held) return [];
  const text = `contract ${use.file.text}`;
  const { operation, contract } = held;
  const source = placeOf(use.file);
  if (!operation) return [{ text, source, passed: true, of: 'contract' }];
  const answer = {
    status: response.status,
    headers: response.headers,
    hasBody: response.encodedSize > 0,
    json: isJson ? frame.body : undefined,
  };
  const found = departures(judging, contract, operation, answer);
  const [first] = found;
  if (!first) return [{ text: `${text}: ${operation.name}`, source, passed: true, of: 'contract' }];
  const whole = `The response of ${operation.name} is not as described`;
  if (use.mode === 'warn') {
    const more = found.length > 1 ? `; ${found.length - 1} more` : '';
    const message = `${whole}: ${shown(first, contract)}${more}`;
    context.host.noted(use.file, [{ code: 'contract-mismatch', range: wholeOf(use.file), message }]);
    return [{ text, source, passed: true, of: 'contract' }];
  }
  const inBody = found.flatMap((each) => (each.keys ? [{ keys: each.keys, text: words(each, contract) }] : []));
  const beside = found.filter(({ keys }) => !keys).map((each) => words(each, contract));
  const message = beside.length > 0 ? `${whole}: ${beside.join('; ')}` : whole;
  const places = inBody.length > 0 ? placesOf(inBody) : {};
  return [{ text, source, passed: false, of: 'contract', code: 'contract-mismatch', message, ...places }];
}

/** What departs; a part of the description that cannot be used is a note, and nothing is held to it. */
function departures(judging: Judging, ...given: Parameters<typeof departuresOf>): readonly Departure[] {
  try {
    return departuresOf(...given);
  } catch (error) {
    if (!(error instanceof DescriptionFault)) throw error;
    const { file } = judging.endpoint!.contract!;
    const [contract] = given;
    const message = `${contract.placeText(error.at)}: ${error.message}; what it describes is not judged`;
    judging.context.host.noted(file, [{ code: 'invalid-contract', range: wholeOf(file), message }]);
    return [];
  }
}

function words({ message, at }: Departure, contract: Contract): string {
  return `${message} (${contract.placeText(at)})`;
}

function shown(departure: Departure, contract: Contract): string {
  const { keys = [] } = departure;
  return `${keys.length > 0 ? `${writtenPath(keys)} ` : ''}${words(departure, contract)}`;
}
