import type { Header } from '../core/http/message.ts';

/** A proxy: where it is, and the header that lets us in. */
type Proxy = Readonly<{ origin: string; headers: readonly Header[] }>;

/** The proxy for an origin: as the project says, else as `HTTP_PROXY`, `HTTPS_PROXY` and `NO_PROXY` do. */
export function proxyFor(origin: string, said: string | undefined, environment: NodeJS.ProcessEnv): Proxy | undefined {
  if (said !== undefined) return said === 'none' ? undefined : proxyOf(said);
  const { protocol, hostname, port } = new URL(origin);
  const name = protocol === 'https:' ? 'HTTPS_PROXY' : 'HTTP_PROXY';
  const proxy = environment[name.toLowerCase()] ?? environment[name];
  if (!proxy) return undefined;
  const excepted = environment['no_proxy'] ?? environment['NO_PROXY'] ?? '';
  return excepted.split(/[\s,]+/).some((each) => covers(each, hostname, port)) ? undefined : proxyOf(proxy);
}

/** `example.org` and `.example.org` cover the host and all below it, `host:8080` one port of it, `*` everything. */
function covers(pattern: string, hostname: string, port: string): boolean {
  if (pattern === '') return false;
  if (pattern === '*') return true;
  const [, name = '', wantedPort] = /^(.*?)(?::(\d+))?$/.exec(pattern)!;
  if (wantedPort !== undefined && wantedPort !== port) return false;
  const wanted = name.toLowerCase().replace(/^\*?\./, '');
  return hostname === wanted || hostname.endsWith(`.${wanted}`);
}

function proxyOf(url: string): Proxy {
  const { protocol, host, username, password } = new URL(/^[a-z]+:\/\//i.test(url) ? url : `http://${url}`);
  const pair = `${decodeURIComponent(username)}:${decodeURIComponent(password)}`;
  const headers: readonly Header[] =
    username === '' ? [] : [['Proxy-Authorization', `Basic ${Buffer.from(pair).toString('base64')}`]];
  return { origin: `${protocol}//${host}`, headers };
}
