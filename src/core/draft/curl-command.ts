import type { Header } from '../http/message.ts';
import { shellQuoted } from './shell-words.ts';

/** Headers that curl writes by itself. */
const OWN: ReadonlySet<string> = new Set(['accept-encoding', 'user-agent', 'content-length', 'host']);

/** A request as a record shows it, as a curl command; what is masked becomes a shell variable, to be set before. */
export function curlCommand(
  { method, url, headers }: Readonly<{ method: string; url: string; headers: readonly Header[] }>,
  body: string | undefined,
): string {
  const parts = [
    `curl${method === 'GET' && body === undefined ? '' : ` -X ${method}`} ${withVariables(url)}`,
    ...headers
      .filter(([name]) => !OWN.has(name.toLowerCase()))
      .map(([name, value]) => `-H ${withVariables(`${name}: ${value}`)}`),
    ...(body === undefined ? [] : [`--data-raw ${withVariables(body)}`]),
  ];
  return parts.join(' \\\n  ');
}

/** Quoted for a shell; what is masked becomes a variable. */
function withVariables(text: string): string {
  if (!text.includes('‹')) return shellQuoted(text);
  return text
    .split(/(\u2039[^\u203a]*\u203a)/)
    .filter((part) => part !== '')
    .map((part) => (part.startsWith('‹') ? `"$${variableName(part.slice(1, -1))}"` : shellQuoted(part)))
    .join('');
}

function variableName(name: string): string {
  return name.toUpperCase().replace(/[^A-Z0-9]+/g, '_');
}
