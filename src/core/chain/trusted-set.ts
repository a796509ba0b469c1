import { shownUrl } from '../http/shown-request.ts';
import type { Endpoint } from '../http/endpoint.ts';
import { isLoopbackUrl } from '../http/message.ts';
import type { DeclaredSecret } from './declared-secrets.ts';
import type { SecretOwners } from './secret-owners.ts';

/** One thing that a person must know before a project's secrets are used: in words, the same for the same thing. */
type Reliance = string;

/**
 * What a project's secrets rely on at some endpoints: the origins to which they are sent, what stands between, and the commands
 * that print them. What is sent to this machine is left out.
 */
export function reliancesOf(
  endpoints: readonly Endpoint[],
  owners: SecretOwners,
  commands: readonly DeclaredSecret[],
): readonly Reliance[] {
  const found = endpoints.flatMap((endpoint): readonly Reliance[] => {
    const { api, connection } = endpoint;
    const secrets = [...owners].filter(([, apis]) => apis.has(api)).map(([name]) => name);
    const url = shownUrl(endpoint);
    const { proxy, ca, verify, connectTo, unix } = connection;
    const to = connectTo ?? unix;
    const isHere = connectTo ? isLoopbackUrl(`http://${connectTo.source.text}`) : isLoopbackUrl(url);
    if (secrets.length === 0 || isHere) return [];
    const origin = /^[a-z]+:\/\/[^/?#]+/i.exec(url)?.[0] ?? url;
    return [
      ...secrets.map((name) => `${name} is sent to ${origin}`),
      ...(proxy && proxy.source.text !== 'none' ? [`${origin} is reached by the proxy ${proxy.source.text}`] : []),
      ...(to ? [`${origin} is connected to at ${to.source.text}`] : []),
      ...(ca ? [`${origin} is trusted by the authority ${ca.source.text}`] : []),
      ...(verify ? [] : [`the certificate of ${origin} is not verified`]),
    ];
  });
  const programs = commands.map(({ name, command = [] }) => {
    const words = command.map(({ text }) => (/[^\w./:@=+-]/.test(text) ? JSON.stringify(text) : text));
    return `${name} is what this command prints: ${words.join(' ')}`;
  });
  return [...new Set([...found, ...programs])].sort();
}
