import type { Endpoint } from '../../http/endpoint.ts';
import { PLAIN_CONNECTION, type ConnectionOptions } from '../../http/message.ts';
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
    const read = runHost.readProjectFile(fillText(template, resolver));
    if ('bytes' in read) return { [name]: new TextDecoder().decode(read.bytes) };
    const { source } = template;
    const advice = 'Paths are relative to batharon.yaml.';
    throw new FillFault(
      diagnosticIn(source, { code: 'key-not-readable', range: wholeOf(source), message: read.message, advice }),
    );
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
