import type { Problem } from '../diagnostics/problem.ts';
import { didYouMean } from '../diagnostics/suggest.ts';
import type { Endpoint } from '../http/endpoint.ts';
import type { Api } from './project-file.ts';

/** `--at live` for all apis, `--at harbour=live` for one. */
export type At = Readonly<{ all: string | undefined; byApi: Readonly<Record<string, string>> }>;

/** The endpoint of an api where a run is, or why there is none. */
export function endpointAt(api: Api, at: At): Endpoint | Omit<Problem, 'range'> {
  const [only] = api.endpoints;
  const forAll = at.all;
  const wanted = at.byApi[api.name] ?? forAll;
  if (only && only.deployment === undefined) return only;
  const names = api.endpoints.map(({ deployment: name }) => name!);
  const chosen = wanted ?? api.defaultDeployment;
  if (chosen === undefined) {
    return {
      code: 'deployment-not-chosen',
      message: `The API "${api.name}" has the deployments ${names.join(', ')}, and none is chosen`,
      advice: `Choose one: --at ${names[0]}, or add default-deployment to the API.`,
    };
  }
  const found = api.endpoints.find(({ deployment: name }) => name === chosen);
  if (found) return found;
  const advice = didYouMean(chosen, names) ?? `Its deployments are ${names.join(', ')}.`;
  return { code: 'unknown-deployment', message: `The API "${api.name}" has no deployment "${chosen}"`, advice };
}
