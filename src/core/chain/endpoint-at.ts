import type { Problem } from '../diagnostics/problem.ts';
import { didYouMean } from '../diagnostics/suggest.ts';
import type { Endpoint } from '../http/endpoint.ts';
import type { Value } from '../value/value.ts';
import type { Api } from './project-file.ts';

/** `--at live` for all apis, `--at harbour=live` for one; `--setting` of all apis that have it, or of one. */
export type At = Readonly<{
  all: string | undefined;
  byApi: Readonly<Record<string, string>>;
  settings?: readonly SettingSaid[];
}>;

/** A setting that was said for a run, of one api or of all that have it. */
export type SettingSaid = Readonly<{ api: string | undefined; name: string; value: Value }>;

const changed = new WeakMap<At, Map<Endpoint, Endpoint>>();

/** The endpoint with the settings that were said; the same object each time, by which others know it. */
function withSettings(endpoint: Endpoint, at: At): Endpoint {
  const { settings, api } = endpoint;
  const said = (at.settings ?? []).filter(
    (each) => (each.api === undefined || each.api === api) && Object.hasOwn(settings, each.name),
  );
  if (said.length === 0) return endpoint;
  let known = changed.get(at);
  if (!known) changed.set(at, (known = new Map<Endpoint, Endpoint>()));
  let found = known.get(endpoint);
  if (!found) {
    found = {
      ...endpoint,
      settings: { ...settings, ...Object.fromEntries(said.map(({ name, value }) => [name, value])) },
    };
    known.set(endpoint, found);
  }
  return found;
}

/** The endpoint of an api where a run is, or why there is none. */
export function endpointAt(api: Api, at: At): Endpoint | Omit<Problem, 'range'> {
  const [only] = api.endpoints;
  const forAll = at.all;
  const wanted = at.byApi[api.name] ?? forAll;
  if (only && only.deployment === undefined) return withSettings(only, at);
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
  if (found) return withSettings(found, at);
  const advice = didYouMean(chosen, names) ?? `Its deployments are ${names.join(', ')}.`;
  return { code: 'unknown-deployment', message: `The API "${api.name}" has no deployment "${chosen}"`, advice };
}
