import { linkTarget } from '../link-header.ts';
import type { Host, ResponseHost } from '../host.ts';
import { FunctionFault, type FunctionDefinition } from './definition.ts';
import { textValue } from './parameters.ts';

/** What stands in the head of this response, and references in it. */
export const response: readonly FunctionDefinition[] = [
  {
    name: 'link',
    parameters: [textValue('rel')],
    result: 'string',
    needsHost: true,
    ofResponse: true,
    errors: 'There is no response here, or its Link header cannot be read.',
    about: 'The absolute URL of a relation in the Link header (RFC 8288), such as next; nothing if there is none.',
    alias: ['links', 'link_header', 'rel'],
    example: ["link('next')", "'https://harbour.example/v1/arrivals?page=2'"],
    evaluate: (host: Host, rel: string) => {
      const { links, url } = responseOf(host);
      if (links === undefined) return undefined;
      const target = targetOf(links, rel);
      return target === undefined ? undefined : resolve(target, url);
    },
  },
  {
    name: 'absolute_url',
    parameters: [textValue('reference')],
    result: 'string',
    needsHost: true,
    ofResponse: true,
    errors: 'There is no response here, or the string is not a URL reference.',
    about:
      'The absolute form of a URL reference, such as a Location header, resolved against the URL of this response.',
    alias: ['urljoin', 'join_url', 'resolve', 'resolve_url'],
    example: ["absolute_url('../berths/N1')", "'https://harbour.example/berths/N1'"],
    evaluate: (host: Host, reference: string) => resolve(reference, responseOf(host).url),
  },
];

export function responseOf({ response: around }: Host): ResponseHost {
  if (around) return around;
  throw new FunctionFault('There is no response here', 'Use it in expect and keep of a call.');
}

function targetOf(header: string, rel: string): string | undefined {
  try {
    return linkTarget(header, rel);
  } catch (error) {
    throw new FunctionFault(`The Link header cannot be read: ${(error as Error).message.split('\n')[0]}`);
  }
}

function resolve(reference: string, base: string): string {
  if (URL.canParse(reference, base)) return new URL(reference, base).href;
  throw new FunctionFault(`'${reference}' is not a URL reference`);
}
