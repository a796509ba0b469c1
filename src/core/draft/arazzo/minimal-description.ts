import type { Chain } from '../../chain/model.ts';
import { templateOf } from './path-template.ts';

/** A minimal description of the calls of a chain, for one whose API has none. */
export function minimalDescription(chain: Chain, url: string): object {
  const paths: Record<string, Record<string, object>> = {};
  for (const step of chain.steps) {
    const { line } = step.kind === 'call' ? step.request : { line: undefined };
    if (!line) continue;
    const path = templateOf(line.target);
    const parameters = [...path.matchAll(/\{([^}]+)\}/g)].map(([, name]) => ({
      name,
      in: 'path',
      required: true,
      schema: { type: 'string' },
    }));
    const operation = {
      ...(parameters.length === 0 ? {} : { parameters }),
      responses: { default: { description: 'The response.' } },
    };
    (paths[path] ??= {})[line.method.toLowerCase()] = operation;
  }
  return { openapi: '3.1.0', info: { title: chain.name, version: '1.0.0' }, servers: [{ url }], paths };
}
