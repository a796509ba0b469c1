import type { Endpoint } from '../../http/endpoint.ts';
import { PLAIN_CONNECTION, type ConnectionOptions } from '../../http/message.ts';
import { pemProblem } from '../../http/pem.ts';
import { diagnosticIn, wholeOf } from '../../diagnostics/source.ts';
import { FillFault, fillText, type Resolver } from '../../template/fill.ts';
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
  const { ca, cert, key, verify, proxy, http2 } = endpoint.connection;
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
    ...(http2 ? { http2 } : {}),
  };
  sessions.connections.set(placeKey(endpoint), options);
  return options;
}
