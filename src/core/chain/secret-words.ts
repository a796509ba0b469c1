/** Words of names whose values are credentials. */
const WORDS =
  'key apikey appkey token secret password passwd auth authorization session sid signature credential'.split(' ');

/** Words of which any other credential may be a short or a plain text. */
const ANY_VALUE: ReadonlySet<string> = new Set(['password', 'passwd', 'secret']);

/** Words that make another thing of it: `max_tokens`, `page_token`, `Idempotency-Key`. */
const OTHERWISE: ReadonlySet<string> = new Set('idempotency page next max sort partition public'.split(' '));

/** Where a name stands: anywhere in a header's or a cookie's, elsewhere as a word of its own. */
export type NamePlace = 'header' | 'cookie' | 'parameter' | 'member';

/** Whether a value is a credential by the name under which it stands. */
export function isSecretName(name: string, value: string, place: NamePlace): boolean {
  const words = wordsOf(name);
  if (value === '' || words.some((word) => OTHERWISE.has(word))) return false;
  if (place === 'header' || place === 'cookie') return WORDS.some((word) => name.toLowerCase().includes(word));
  const found = words.filter((word) => WORDS.includes(word) || WORDS.includes(word.replace(/s$/, '')));
  if (found.length === 0) return false;
  return place === 'parameter' || found.some((word) => ANY_VALUE.has(word)) || /^\S{8,}$/.test(value);
}

/** `api`, `key` of `api-Key`, `apiKey` and `API_KEY`. */
function wordsOf(name: string): readonly string[] {
  return name
    .replace(/([a-z0-9])([A-Z])/g, '$1 $2')
    .split(/[^A-Za-z0-9]+/)
    .map((word) => word.toLowerCase());
}

/** A name as variables of the environment and secrets have it: `HARBOUR_KEY` of `harbour-key`. */
export function environmentName(name: string): string {
  return name.toUpperCase().replace(/[^A-Z0-9]+/g, '_');
}
