import { keysMeant } from '../chain/suggest-key.ts';
import { nearest } from '../diagnostics/suggest.ts';
import { functionMeant } from '../expression/functions/list.ts';
import { codePageGroups } from './codes.ts';
import { functionGroups } from './functions.ts';
import { keyGroups } from './keys.ts';
import { nameGroups } from './names.ts';
import type { Page, PageGroup } from './page.ts';
import { topicGroups, topicMeant } from './topics.ts';

export type Section = Readonly<{ title: string; groups: readonly PageGroup[] }>;

/** The whole reference: keys, names, functions, topics, message codes. */
export function reference(): readonly Section[] {
  return [
    { title: 'Keys', groups: keyGroups() },
    { title: 'Names', groups: nameGroups() },
    { title: 'Functions', groups: functionGroups() },
    { title: 'Topics', groups: topicGroups() },
    { title: 'Message codes', groups: codePageGroups() },
  ];
}

/** Every page of it, in the same order. */
export function allPages(): readonly Page[] {
  return reference().flatMap(({ groups }) => groups.flatMap(({ pages }) => pages));
}

/**
 * The pages of a topic: those of its very name, those of keys inside others (`ca` of `tls.ca`), else what a word from
 * elsewhere means here. A key that means the same at several places has one page.
 */
export function findPages(topic: string): readonly Page[] {
  const all = allPages();
  const wanted = topic.trim().replace(/\(.*$/, '').replace(/:$/, '');
  const slug = wanted.toLowerCase().replace(/\s+/g, '-');
  const named = all.filter(({ name }) => name === wanted || name === slug);
  const inside = all.filter(({ name }) => name.endsWith(`.${wanted}`) || name.startsWith(`${wanted}.`));
  const topics = new Set([topicMeant(slug)]);
  const meant = [...keysMeant(slug), ...[functionMeant(slug.replaceAll('-', '_')) ?? []].flat()];
  const about = all.filter(({ name, kind }) => {
    if (kind === 'topic') return topics.has(name);
    return (kind === 'key' || kind === 'function') && meant.some((key) => name === key || name.endsWith(`.${key}`));
  });
  if (named.length > 0)
    return merged([
      ...named,
      ...inside.filter(({ name }) => name.endsWith(`.${wanted}`)),
      ...about.filter(({ kind }) => kind === 'topic'),
    ]);
  return merged([...new Set([...about, ...inside])]);
}

/** The pages whose text mentions words that have no page of their own, most telling first: fewer than a screenful. */
export function pagesMentioning(words: string): readonly Page[] {
  const escaped = words.trim().replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
  const mention = new RegExp(`(?<![\\w-])${escaped}(?![\\w-])`, 'i');
  const found = allPages().filter(({ heading, paragraphs }) => mention.test([heading, ...paragraphs].join('\n')));
  return merged(found.slice(0, MOST_MENTIONS));
}

const MOST_MENTIONS = 3;

/** Keys that mean the same are shown once, with all their places. */
function merged(pages: readonly Page[]): readonly Page[] {
  const found = new Map<string, Page>();
  for (const page of pages) {
    const rest = page.rows.filter(({ label }) => label !== 'in');
    const key = JSON.stringify([page.kind, page.name, page.paragraphs, rest]);
    const before = found.get(key);
    found.set(key, before ? withPlace(before, page) : page);
  }
  return [...found.values()];
}

function withPlace(page: Page, { rows }: Page): Page {
  const place = rows.find(({ label }) => label === 'in')?.text;
  if (place === undefined) return page;
  return {
    ...page,
    rows: page.rows.map((row) => (row.label === 'in' ? { ...row, text: `${row.text}, ${place}` } : row)),
  };
}

/** The topic that was meant by one that does not exist. */
export function nearestTopic(topic: string): string | undefined {
  return nearest(topic, new Set(allPages().map(({ name }) => name)));
}
