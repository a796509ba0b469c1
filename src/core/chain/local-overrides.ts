import type { Diagnostic, Source, SourceFile } from '../diagnostics/source.ts';
import { adviceOf, didYouMean } from '../diagnostics/suggest.ts';
import type { Problem } from '../diagnostics/problem.ts';
import { named, type Named } from '../schema/leaves.ts';
import { mapping, readShape } from '../schema/shape.ts';
import { present } from '../value/present.ts';
import { readYaml } from '../yaml/read.ts';
import { api, OWN_KEYS, type ApiEntry, type Shared } from './api-shape.ts';
import { collect } from './collect.ts';
import { suggestKey } from './suggest-key.ts';

type Report = (problem: Problem) => void;

/** `batharon.local.yaml`: what one person has otherwise than the project; everything in it is optional. */
const localFile = mapping({
  apis: named(api).optional().describe("APIs of the project, with the keys that are one's own."),
});

/** The apis of a project with one's own overrides: key by key, settings and deployments by name. */
export function withLocal(
  apis: readonly ApiEntry[],
  file: SourceFile,
  keysAt: (path: readonly PropertyKey[]) => readonly string[],
): Readonly<{ apis: readonly ApiEntry[]; diagnostics: readonly Diagnostic[] }> {
  return collect(file, (reading) => {
    const tree = readYaml(reading);
    const given = tree && readShape(localFile, { node: tree, reading }, (key, path) => suggestKey(key, keysAt(path)));
    if (!given?.apis) return { apis };
    const mine = given.apis;
    const names = apis.map(({ name }) => name);
    for (const { name, nameRange: range } of mine.filter((each) => !names.includes(each.name))) {
      const advice = didYouMean(name, names) ?? `Its APIs are ${names.join(', ')}.`;
      reading.report({ code: 'unknown-api', range, message: `The project has no API "${name}"`, advice });
    }
    return {
      apis: apis.map((entry) => {
        const own = mine.find(({ name }) => name === entry.name);
        return own && isFit(entry, own, reading.report) ? { ...entry, value: merged(entry.value, own.value) } : entry;
      }),
    };
  });
}

/** What cannot be added to an api is said where it stands. */
function isFit({ value: base }: ApiEntry, { nameRange: range, value }: ApiEntry, report: Report): boolean {
  const deployments = base.deployments ?? [];
  const clashing = deployments.length > 0 ? (['url', ...OWN_KEYS] as const).filter((key) => value[key]) : [];
  for (const key of clashing) {
    const message = `The API has deployments, and ${key} belongs to one of them`;
    const advice = `Write deployments: {${deployments[0]!.name}: {${key}: ...}}.`;
    report({ code: 'keys-clash', range, message, advice });
  }
  const added = (value.deployments ?? []).filter(({ name }) => deployments.every((each) => each.name !== name));
  if (added.length > 0 && deployments.length === 0) {
    const advice = 'Change the keys of the API itself.';
    report({ code: 'keys-clash', range: added[0]!.nameRange, message: 'The API has no deployments', advice });
  }
  const lacking = added.filter((each) => !each.value.url);
  for (const { name, nameRange } of lacking) {
    const advice = adviceOf(
      didYouMean(
        name,
        deployments.map((each) => each.name),
      ) ?? 'Add its url.',
    );
    report({ code: 'key-missing', range: nameRange, message: `The new deployment "${name}" has no url`, ...advice });
  }
  const isKnown = isKnownDefault(value['default-deployment'], [...deployments, ...added], report);
  return isKnown && clashing.length + lacking.length === 0 && (added.length === 0 || deployments.length > 0);
}

function isKnownDefault(
  wanted: Source | undefined,
  deployments: readonly Readonly<{ name: string }>[],
  report: Report,
): boolean {
  const names = deployments.map(({ name }) => name);
  if (!wanted || names.includes(wanted.text)) return true;
  const range = wanted.locate([0, wanted.text.length]);
  const advice = adviceOf(didYouMean(wanted.text, names));
  report({ code: 'unknown-deployment', range, message: `The API has no deployment "${wanted.text}"`, ...advice });
  return false;
}

type ApiKeys = ApiEntry['value'];

function merged(base: ApiKeys, own: ApiKeys): ApiKeys {
  const known = base.deployments ?? [];
  const added = (own.deployments ?? []).filter(({ name }) => known.every((each) => each.name !== name));
  const deployments = known.map((entry) => {
    const mine = own.deployments?.find(({ name }) => name === entry.name);
    return mine ? { ...entry, value: mergedKeys(entry.value, mine.value) } : entry;
  });
  return { ...mergedKeys(base, own), ...(base.deployments ? { deployments: [...deployments, ...added] } : {}) };
}

function mergedKeys<T extends Shared>(base: T, own: T): T {
  return {
    ...base,
    ...present(own),
    ...present({
      settings: joined(base.settings, own.settings),
      headers: joined(base.headers, own.headers),
      query: joined(base.query, own.query),
    }),
  };
}

/** By name, what is one's own in place of what was there. */
function joined<T>(base: Named<T> | undefined, own: Named<T> | undefined): Named<T> | undefined {
  if (!base || !own) return own ?? base;
  return [...base.filter(({ name }) => own.every((each) => each.name !== name)), ...own];
}
