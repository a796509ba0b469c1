import type { CallStep } from '../../chain/model.ts';
import type { Endpoint } from '../../http/endpoint.ts';

/** Whether a redirect is the response. */
export function stopsAtRedirect(step: CallStep, endpoint: Endpoint | undefined): boolean {
  return (step.redirects ?? endpoint?.redirects) === 'stop';
}
