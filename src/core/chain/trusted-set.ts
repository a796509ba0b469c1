import { shownText, shownUrl } from '../http/shown-request.ts';
import type { TextTemplate } from '../template/template.ts';
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
    const { api, connection, settings } = endpoint;
    const secrets = [...owners].filter(([, apis]) => apis.has(api)).map(([name]) => name);
    const url = shownUrl(endpoint);
    const shown = (text: TextTemplate | undefined) => text && shownText(text, settings);
    const proxy = shown(connection.proxy);
    const connectTo = shown(connection.connectTo);
    const to = connectTo ?? shown(connection.unix);
    const { ca, verify } = connection;
    const isHere = isLoopbackUrl(connectTo === undefined ? url : `http://${connectTo}`);
    if (secrets.length === 0 || isHere) return [];
    const origin = /^[a-z]+:\/\/[^/?#]+/i.exec(url)?.[0] ?? url;
    return [
      ...secrets.map((name) => `${name} is sent to ${origin}`),
      ...(proxy !== undefined && proxy !== 'none' ? [`${origin} is reached by the proxy ${proxy}`] : []),
      ...(to === undefined ? [] : [`${origin} is connected to at ${to}`]),
      ...(ca ? [`${origin} is trusted by the authority ${shown(ca)}`] : []),
      ...(verify ? [] : [`the certificate of ${origin} is not verified`]),
    ];
  });
  const programs = commands.map(({ name, command = [] }) => {
    const words = command.map(({ text }) => (/[^\w./:@=+-]/.test(text) ? JSON.stringify(text) : text));
    return `${name} is what this command prints: ${words.join(' ')}`;
  });
  return [...new Set([...found, ...programs])].sort();
}
