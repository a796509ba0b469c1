import { isOfSender, withMasks, type RecordedSample } from './masked.ts';
import { shellQuoted } from './shell-words.ts';

/** A request as a record shows it, as a curl command; what is masked becomes a shell variable, to be set before. */
export function curlCommand({ method, url, headers }: RecordedSample, body: string | undefined): string {
  const parts = [
    `curl${method === 'GET' && body === undefined ? '' : ` -X ${method}`} ${withVariables(url)}`,
    ...headers.filter(([name]) => !isOfSender(name)).map(([name, value]) => `-H ${withVariables(`${name}: ${value}`)}`),
    ...(body === undefined ? [] : [`--data-raw ${withVariables(body)}`]),
  ];
  return parts.join(' \\\n  ');
}

/** Quoted for a shell; what is masked becomes a variable. */
function withVariables(text: string): string {
  // A text of nothing is quoted too.
  return text === '' ? shellQuoted(text) : withMasks(text, shellQuoted, (variable) => `"$${variable}"`);
}
