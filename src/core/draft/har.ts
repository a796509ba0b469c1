import { fromBase64 } from '../value/base64.ts';
import type { Header } from '../http/message.ts';
import type { DraftForm, ReadOptions, ReadSamples, Sample, SampleResponse } from './definition.ts';
import { bodyOfText, firstHeader, requestOfParts, splitTarget, type DraftBody, type DraftField } from './request.ts';

/** A capture of a browser or a proxy (HAR 1.2): the API requests of it, in order. */
export const har: DraftForm = {
  name: 'har',
  what: 'HAR capture',
  recognizes: (text) => /^\s*\{\s*"log"\s*:/.test(text.slice(0, 2000)),
  read: readHar,
};

type Pair = Readonly<{ name: string; value: string }>;
type Content = Readonly<{ mimeType?: string; text?: string; encoding?: string }>;
type PostData = Readonly<{ mimeType?: string; text?: string; params?: readonly HarParameter[] }>;
type HarParameter = Readonly<{ name: string; value?: string; fileName?: string; contentType?: string }>;
type Entry = Readonly<{
  _resourceType?: string;
  request: Readonly<{ method: string; url: string; headers?: readonly Pair[]; postData?: PostData }>;
  response?: Readonly<{ status: number; headers?: readonly Pair[]; content?: Content }>;
}>;

function readHar(text: string, options: ReadOptions): ReadSamples {
  const entries = entriesOf(text);
  if ('message' in entries) return entries;
  const left = new Map<string, number>();
  const count = (what: string) => void left.set(what, (left.get(what) ?? 0) + 1);
  const samples: Sample[] = [];
  let dropped = 0;
  for (const entry of entries.found) {
    const why = leftOut(entry, options.matching);
    if (why !== undefined) {
      count(why);
      continue;
    }
    const [sample, headers] = sampleOf(entry, options.browserHeaders === true);
    samples.push(sample);
    dropped += headers;
  }
  if (samples.length === 0) return { message: 'No API request is in it', advice: adviceOf(options, left) };
  const notes = [...left].map(([what, number]) => `left out: ${number} ${what}`);
  if (dropped > 0) notes.push(`left out: ${dropped} headers that browsers add (--browser-headers keeps them)`);
  return { samples, notes };
}

function adviceOf({ matching }: ReadOptions, left: ReadonlyMap<string, number>): string {
  const counted = [...left].map(([what, number]) => `${number} ${what}`).join(', ');
  return `Left out: ${counted || 'nothing'}.${matching === undefined ? '' : ` --matching ${matching} narrows it.`}`;
}

function entriesOf(
  text: string,
): Readonly<{ found: readonly Entry[] }> | Readonly<{ message: string; advice?: string }> {
  try {
    const { log } = JSON.parse(text) as { log?: { entries?: unknown } };
    if (Array.isArray(log?.entries) && log.entries.every(isEntry)) return { found: log.entries };
    return { message: 'It has no list of entries', advice: 'A HAR 1.2 has log.entries, each with a request.' };
  } catch (error) {
    return { message: `It is not JSON: ${(error as Error).message}` };
  }
}

function isEntry(entry: unknown): entry is Entry {
  const { request } = (entry ?? {}) as Partial<Entry>;
  return typeof request?.method === 'string' && typeof request.url === 'string' && URL.canParse(request.url);
}

/** Kinds of resources that a page loads for itself. */
const OF_PAGES: Readonly<Record<string, string>> = {
  document: 'pages',
  script: 'scripts',
  stylesheet: 'style sheets',
  image: 'pictures',
  font: 'fonts',
  media: 'media files',
  manifest: 'manifests',
  preflight: 'preflights',
  websocket: 'web sockets',
};

/** The same by the media type of a response, where the capture does not say. */
const BY_TYPE: readonly (readonly [RegExp, string])[] = [
  [/^text\/html|^application\/xhtml/, 'pages'],
  [/javascript|ecmascript/, 'scripts'],
  [/^text\/css/, 'style sheets'],
  [/^image\//, 'pictures'],
  [/^font\/|font-woff|opentype/, 'fonts'],
  [/^(?:audio|video)\//, 'media files'],
];

/** Why an entry is no API request; nothing where it is one. */
function leftOut(entry: Entry, matching: string | undefined): string | undefined {
  const { url } = entry.request;
  if (!/^https?:/.test(url)) return 'requests that are not HTTP';
  if (matching !== undefined && !url.includes(matching)) return `requests without "${matching}"`;
  return isPreflight(entry.request) ? 'preflights' : kindOfPage(entry);
}

/** What a page loads for itself, by what the capture says, else by the media type. */
function kindOfPage({ request, response, _resourceType: type = '' }: Entry): string | undefined {
  const ofPage = OF_PAGES[type];
  if (ofPage !== undefined) return ofPage;
  if (type === 'xhr' || type === 'fetch' || request.method !== 'GET') return undefined;
  const mimeType = response?.content?.mimeType ?? '';
  return BY_TYPE.find(([pattern]) => pattern.test(mimeType))?.[1];
}

/** What a browser asks before it sends a request to another origin. */
function isPreflight({ method, headers = [] }: Entry['request']): boolean {
  return method === 'OPTIONS' && headers.some(({ name }) => /^access-control-request-method$/i.test(name));
}

/** What browsers add by themselves. */
const OF_BROWSERS =
  /^(?::.*|origin|referer|sec-.*|user-agent|accept-language|accept-encoding|cache-control|pragma|dnt|priority|upgrade-insecure-requests|if-none-match|if-modified-since)$/i;
const OF_THE_WAY = /^(?:host|content-length|connection)$/i;

/** The sample of an entry, and how many headers of the browser were left out. */
function sampleOf({ request, response }: Entry, keepsBrowsers: boolean): readonly [Sample, number] {
  const all = (request.headers ?? []).filter(({ name }) => !OF_THE_WAY.test(name) && !name.startsWith(':'));
  const kept = keepsBrowsers ? all : all.filter(({ name }) => !OF_BROWSERS.test(name));
  const headers = kept.map(({ name, value }) => [name, value] as const);
  const body = bodyOf(request.postData, headers);
  const sample: Sample = {
    request: requestOfParts(request.method.toUpperCase(), splitTarget(request.url), headers, body),
    response: response && responseOf(response),
  };
  return [sample, all.length - kept.length];
}

function bodyOf(data: PostData | undefined, headers: readonly Header[]): DraftBody | undefined {
  if (!data) return undefined;
  const type = firstHeader(headers, 'content-type') ?? data.mimeType;
  if (data.text !== undefined && data.text !== '' && !/^multipart\/form-data/i.test(type ?? ''))
    return bodyOfText(data.text, type);
  if (!data.params || data.params.length === 0) return data.text ? { kind: 'text', text: data.text, type } : undefined;
  if (!/^multipart/i.test(type ?? ''))
    return { kind: 'form', fields: data.params.map(({ name, value = '' }) => [name, value] as const) };
  const fields = data.params.map(({ name, value = '', fileName, contentType }): DraftField =>
    fileName === undefined ? { name, text: value } : { name, file: fileName, type: contentType },
  );
  return { kind: 'multipart', fields };
}

function responseOf({ status, headers = [], content }: NonNullable<Entry['response']>): SampleResponse {
  const cookies = headers
    .filter(({ name }) => name.toLowerCase() === 'set-cookie')
    .flatMap(({ value }) => value.split('\n'))
    .flatMap((line) => {
      const found = /^\s*([^=;]+)=([^;]*)/.exec(line);
      return found ? [[found[1]!.trim(), found[2]!] as const] : [];
    });
  return { status, cookies: new Map(cookies), json: jsonText(content) };
}

function jsonText({ mimeType = '', text, encoding }: Content = {}): string | undefined {
  if (text === undefined || !/json/i.test(mimeType)) return undefined;
  if (encoding !== 'base64') return text;
  return new TextDecoder().decode(fromBase64(text));
}
