import type { Endpoint } from '../../http/endpoint.ts';
import { PLAIN_CONNECTION, type ConnectionOptions } from '../../http/message.ts';
import { pemProblem } from '../../http/pem.ts';
import { diagnosticIn, wholeOf } from '../../diagnostics/source.ts';
import { FillFault, fillFault, fillText, type Resolver } from '../../template/fill.ts';
import type { TextTemplate } from '../../template/template.ts';
import type { StepFrame } from '../frame.ts';
import { placeKey } from './session.ts';

/** How an api is connected to: read once in a run. Throws `FillFault`. */
export function connectionOf(
  endpoint: Endpoint | undefined,
  resolver: Resolver,
  { sessions, runHost }: StepFrame,
): ConnectionOptions {
  if (!endpoint) return PLAIN_CONNECTION;
  const known = sessions.connections.get(placeKey(endpoint));
  if (known) return known;
  const { ca, cert, key, verify, proxy, connectTo, unix, http2 } = endpoint.connection;
  const content = (name: 'ca' | 'cert' | 'key', template: TextTemplate | undefined) => {
    if (!template) return {};
    const file = fillText(template, resolver);
    const read = runHost.readProjectFile(file);
    const message = 'bytes' in read ? pemProblem(name, file, read.bytes) : read.message;
    if ('bytes' in read && message === undefined) return { [name]: new TextDecoder().decode(read.bytes) };
    const { source } = template;
    const advice = 'Paths are relative to batharon.yaml.';
    const problem = { code: 'key-not-readable' as const, range: wholeOf(source), message: message!, advice };
    throw new FillFault(diagnosticIn(source, problem));
  };
  const options: ConnectionOptions = {
    ...content('ca', ca),
    ...content('cert', cert),
    ...content('key', key),
    ...(verify ? {} : { verify }),
    ...(proxy ? { proxy: fillText(proxy, resolver) } : {}),
    ...(connectTo ? { to: hostOf(connectTo, resolver) } : {}),
    ...(unix ? { to: { socket: socketOf(unix, resolver) } } : {}),
    ...(http2 ? { http2 } : {}),
  };
  sessions.connections.set(placeKey(endpoint), options);
  return options;
}

/** `127.0.0.1:8443`, `[::1]:8443`; without a port that of the URL. */
function hostOf(template: TextTemplate, resolver: Resolver) {
  const text = fillText(template, resolver);
  const [, v6, name, port] = /^(?:\[([^\]]+)\]|([^:\s/[\]]+))(?::(\d{1,5}))?$/.exec(text.trim()) ?? [];
  const host = v6 ?? name;
  if (host !== undefined) return { host, port: port === undefined ? undefined : Number(port) };
  return unusable(template, `connect-to takes a host and a port, not "${text}"`, 'Write 127.0.0.1:8443.');
}

function socketOf(template: TextTemplate, resolver: Resolver): string {
  const text = fillText(template, resolver);
  if (/^(?:\/|\\\\)./.test(text)) return text;
  return unusable(template, `unix takes the absolute path of a socket, not "${text}"`, 'Write /run/harbour.sock.');
}

function unusable({ source }: TextTemplate, message: string, advice: string): never {
  return fillFault(source, { code: 'invalid-value', range: wholeOf(source), message, advice });
}
