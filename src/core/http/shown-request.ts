import { evaluate } from '../expression/evaluate.ts';
import { frameOf } from '../expression/frame.ts';
import { secretIn } from '../expression/secrecy.ts';
import { FillFault, fillText, type Resolver } from '../template/fill.ts';
import type { TextTemplate } from '../template/template.ts';
import { Mask } from '../value/value.ts';
import type { Endpoint } from './endpoint.ts';
import { SECRET_HEADERS } from './headers.ts';
import { splitUrl, type Header, type HttpRequest } from './message.ts';

/**
 * The record of a request: what is masked by name, whatever its value. A value that already holds a mask says more,
 * so it stays. `secretNames` are the headers and parameters of the credential.
 */
export function maskedByName(request: HttpRequest, secretNames: ReadonlySet<string>): HttpRequest {
  const headers = request.headers.map((header): Header => {
    const [name, value] = header;
    const lower = name.toLowerCase();
    const isSecret = SECRET_HEADERS.has(lower) || secretNames.has(lower);
    return isSecret && !value.includes('‹') ? [name, `‹${name}›`] : header;
  });
  return { ...request, headers, url: withoutUserInfo(maskedParameters(request.url, secretNames)) };
}

function maskedParameters(url: string, secretNames: ReadonlySet<string>): string {
  const lower = url.toLowerCase();
  if (![...secretNames].some((name) => lower.includes(`${name}=`))) return url;
  return url.replace(/([?&])([^=&#]+)=([^&#]*)/g, (pair, sign: string, name: string, value: string) =>
    secretNames.has(name.toLowerCase()) && !value.includes('‹') ? `${sign}${name}=‹${name}›` : pair,
  );
}

function withoutUserInfo(url: string): string {
  if (!url.includes('@')) return url;
  const { origin } = splitUrl(url);
  return origin.includes('@') ? origin.replace(/\/\/.*@/, '//‹userinfo›@') + url.slice(origin.length) : url;
}

/** The base URL of an endpoint for the record. */
export function shownUrl({ url, settings }: Endpoint): string {
  return shownText(url, settings);
}

/** A text of an endpoint for people and records, secrets masked; as it is written when a setting is missing. */
export function shownText(text: TextTemplate, settings: Endpoint['settings']): string {
  const frame = frameOf(undefined, (name) => (name === 'setting' ? settings : undefined));
  const resolver: Resolver = {
    value: (placeholder) => {
      const name = secretIn(placeholder.node, new Map())?.name;
      return name === undefined ? evaluate(placeholder.node, frame).value : new Mask(name);
    },
    leavesOut: () => false,
    forRecord: true,
  };
  try {
    return fillText(text, resolver);
  } catch (error) {
    if (error instanceof FillFault) return text.source.text;
    throw error;
  }
}
