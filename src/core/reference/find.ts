import { nearest } from '../diagnostics/suggest.ts';
import { functionMeant } from '../expression/functions/list.ts';
import { codePageGroups } from './codes.ts';
import { functionGroups } from './functions.ts';
import { keyGroups } from './keys.ts';
import type { Page, PageGroup } from './page.ts';

export type Section = Readonly<{ title: string; groups: readonly PageGroup[] }>;

/** The whole reference: keys, functions, message codes. */
export function reference(): readonly Section[] {
  return [
    { title: 'Keys', groups: keyGroups() },
    { title: 'Functions', groups: functionGroups() },
    { title: 'Message codes', groups: codePageGroups() },
  ];
}

function allPages(): readonly Page[] {
  return reference().flatMap(({ groups }) => groups.flatMap(({ pages }) => pages));
}

/** The pages of a topic: a key may stand at several places. Words from elsewhere lead to the function that is meant. */
export function findPages(topic: string): readonly Page[] {
  const all = allPages();
  const wanted = topic.replace(/\(.*$/, '').replace(/:$/, '');
  const found = all.filter(({ name }) => name === wanted);
  if (found.length > 0) return found;
  const meant = functionMeant(wanted);
  return all.filter(({ name, kind }) => name === meant && kind === 'function');
}

/** The topic that was meant by one that does not exist. */
export function nearestTopic(topic: string): string | undefined {
  return nearest(topic, new Set(allPages().map(({ name }) => name)));
}
