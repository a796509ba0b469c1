import { isObject, type Value } from '../../value/value.ts';
import { readJson } from '../../value/json-read.ts';
import { writeJson } from '../../value/json-write.ts';

/** Fields of token requests and responses that are masked whatever they hold (RFC 6749, 7523, 8628). */
const SECRET_FIELDS: ReadonlySet<string> = new Set([
  'access_token',
  'refresh_token',
  'id_token',
  'client_secret',
  'client_assertion',
  'subject_token',
  'actor_token',
  'assertion',
  'password',
  'code',
  'code_verifier',
  'device_code',
]);

/** The body of a token request or response for the record: its secret fields masked by name. */
export function maskedFields(text: string, type: string | undefined): string {
  if (type?.includes('json')) {
    const json = readJson(text);
    return json.ok && isObject(json.value) ? writeJson(maskedMembers(json.value)) : text;
  }
  return text.replace(/(^|&)([^=&]+)=([^&]*)/g, (pair, sign: string, name: string) =>
    SECRET_FIELDS.has(name) ? `${sign}${name}=‹${name}›` : pair,
  );
}

function maskedMembers(object: Readonly<Record<string, Value>>): Value {
  return Object.fromEntries(
    Object.entries(object).map(([name, value]) => [name, SECRET_FIELDS.has(name) ? `‹${name}›` : value]),
  );
}
