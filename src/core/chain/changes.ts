import { diagnosticIn, type Diagnostic } from '../diagnostics/source.ts';
import { endpointWords } from '../http/endpoint.ts';
import { isChanging, isRepeatable } from '../http/methods.ts';
import type { EndpointOf } from './endpoints.ts';
import type { CallStep, Chain } from './model.ts';
import { callsOf } from './steps/inside.ts';

/** Whether a call changes something at the server: by its method, unless it says that it only reads. */
export function changesSomething({ request, changes }: CallStep): boolean {
  const { line, body } = request;
  return changes ?? (body?.effect ? body.effect === 'changes' : isChanging(line?.method ?? 'GET'));
}

/** Whether a call may be sent again without asking (RFC 9110 section 9.2.2), unless the file says otherwise. */
export function mayRepeat({ request, repeatable }: CallStep): boolean {
  const { line, body, idempotencyKey } = request;
  return (
    repeatable ?? (idempotencyKey !== undefined || body?.effect === 'reads' || isRepeatable(line?.method ?? 'GET'))
  );
}

/**
 * Calls that would change something where that must be allowed by name: `live`, `harbour=live` for one api, or the api for
 * one without deployments. Nothing of such a chain is sent.
 */
export function changesNotAllowed(
  chain: Chain,
  endpointOf: EndpointOf,
  allowed: readonly string[],
): readonly Diagnostic[] {
  return callsOf(chain).flatMap((call) => {
    const endpoint = endpointOf(chain, call);
    const { line } = call.request;
    if (!endpoint?.changes || !line || !changesSomething(call)) return [];
    const { api, deployment } = endpoint;
    const names = deployment === undefined ? [api] : [deployment, `${api}=${deployment}`];
    if (endpoint.changes === 'when-allowed' && names.some((name) => allowed.includes(name))) return [];
    const where = endpointWords(endpoint);
    const message = `The call "${call.name}" would change something at ${where}, which is guarded`;
    const advice =
      endpoint.changes === 'never'
        ? 'This deployment never allows changes (changes: never). If the call only reads, add changes: false to it.'
        : `To allow it: --allow-changes ${names[0]}. If the call only reads, add changes: false to it.`;
    return [diagnosticIn(line.source, { code: 'change-not-allowed', range: [0, line.method.length], message, advice })];
  });
}
