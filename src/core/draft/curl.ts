import type { DraftForm, ReadSamples, Sample } from './definition.ts';
import { readJson } from '../value/json-read.ts';
import {
  firstHeader,
  isFormText,
  parametersOf,
  requestOfParts,
  splitTarget,
  type DraftBody,
  type DraftField,
  type DraftRequest,
} from './request.ts';
import { shellCommand } from './shell-words.ts';

/** The beginning of a command, behind a prompt. */
const COMMAND = /^[ \t]*(?:[$%>][ \t]+)?(curl)(?=[ \t\\]|$)/gm;

/** curl commands, as most documentation of HTTP APIs shows requests. */
export const curl: DraftForm = {
  name: 'curl',
  what: 'curl command',
  recognizes: (text) => new RegExp(COMMAND.source, 'm').test(text),
  read: readCurls,
};

/** Every command of a text; what stands between them is passed over. */
function readCurls(text: string): ReadSamples {
  const samples: Sample[] = [];
  const notes = new Set<string>();
  let end = 0;
  for (const found of text.matchAll(COMMAND)) {
    const from = found.index + found[0].length - 'curl'.length;
    if (from < end) continue;
    const command = shellCommand(text, from);
    if ('message' in command) return { ...command, advice: 'Paste the whole command, quotes included.' };
    end = command.end;
    const read = requestOf(command.words);
    if ('message' in read) return read;
    samples.push({ request: read.request });
    for (const note of read.notes) notes.add(note);
  }
  if (samples.length === 0) return NOT_CURL;
  return { samples, notes: [...notes] };
}

const NOT_CURL = {
  message: 'This does not begin with curl',
  advice: 'Example: batharon send --curl "curl -H \'Accept: application/json\' https://..."',
};

/** Options with an argument, by their short names. */
const SHORT: Readonly<Record<string, string>> = {
  X: 'request',
  H: 'header',
  d: 'data',
  F: 'form',
  u: 'user',
  b: 'cookie',
  A: 'user-agent',
  e: 'referer',
  m: 'max-time',
  x: 'proxy',
  o: 'output',
  T: 'upload-file',
};
const WITH_ARGUMENT: ReadonlySet<string> = new Set([
  ...Object.values(SHORT),
  'data-raw',
  'data-binary',
  'data-ascii',
  'data-urlencode',
  'json',
  'url',
  'connect-timeout',
  'cert',
  'key',
  'cacert',
  'retry',
  'oauth2-bearer',
  'url-query',
  'form-string',
  'write-out',
]);
/** Flags that change nothing of the request, or what is done here anyway. */
const WITHOUT_EFFECT: ReadonlySet<string> = new Set(
  'silent show-error location compressed include verbose fail globoff progress-bar no-buffer http1.1 http2'.split(' '),
);
const FLAGS: Readonly<Record<string, string>> = {
  s: 'silent',
  S: 'show-error',
  L: 'location',
  i: 'include',
  v: 'verbose',
  f: 'fail',
  g: 'globoff',
  G: 'get',
  I: 'head',
  k: 'insecure',
  N: 'no-buffer',
};

/** Options that become a part of the request. */
const HONOURED: ReadonlySet<string> = new Set(
  `request header data data-raw data-binary data-ascii data-urlencode json url user cookie user-agent referer get head
  max-time oauth2-bearer url-query form form-string upload-file`.split(/\s+/),
);

type Option = Readonly<{ name: string; value: string }>;

type ReadCommand =
  Readonly<{ request: DraftRequest; notes: readonly string[] }> | Exclude<ReadSamples, { samples: unknown }>;

/** A curl command in its words. What it does not know it names. */
function requestOf(words: readonly string[]): ReadCommand {
  if (words[0] !== 'curl') return NOT_CURL;
  const { options, urls } = optionsIn(words.slice(1));
  return build(options, urls);
}

function optionsIn(words: readonly string[]): Readonly<{ options: readonly Option[]; urls: readonly string[] }> {
  const options: Option[] = [];
  const urls: string[] = [];
  const rest = words.values();
  const next = (): string => rest.next().value ?? '';
  for (const word of rest) {
    if (word.startsWith('--')) options.push(longOption(word, next));
    else if (word.startsWith('-') && word.length > 1) options.push(...shortOptions(word, next));
    else urls.push(word);
  }
  return { options, urls };
}

function longOption(word: string, next: () => string): Option {
  const [name = '', inline] = splitOnce(word.slice(2), '=');
  return { name, value: WITH_ARGUMENT.has(name) ? (inline ?? next()) : '' };
}

/** `-sSLd body`: flags in one word, the last of which may take an argument. */
function shortOptions(word: string, next: () => string): readonly Option[] {
  const options: Option[] = [];
  for (let k = 1; k < word.length; k++) {
    const letter = word[k]!;
    const name = SHORT[letter];
    if (name !== undefined) return [...options, { name, value: word.slice(k + 1) || next() }];
    options.push({ name: FLAGS[letter] ?? `-${letter}`, value: '' });
  }
  return options;
}

function splitOnce(text: string, sign: string): readonly [string, string | undefined] {
  const at = text.indexOf(sign);
  return at < 0 ? [text, undefined] : [text.slice(0, at), text.slice(at + 1)];
}

function build(options: readonly Option[], urls: readonly string[]): ReadCommand {
  const all = (...names: readonly string[]) =>
    options.filter(({ name }) => names.includes(name)).map(({ value }) => value);
  const has = (name: string) => options.some((option) => option.name === name);
  const url = all('url')[0] ?? urls[0];
  if (url === undefined) return { message: 'The command has no URL' };
  const target = splitTarget(/^[a-z]+:\/\//i.test(url) ? url : `http://${url}`);
  const headers = headersOf(all('header'), options);
  const data = dataOf(options);
  const type = firstHeader(headers, 'content-type');
  const asQuery = has('get') && data !== undefined ? [data.text] : [];
  const rawQuery = [target.rawQuery, ...asQuery, ...all('url-query').map(urlEncoded)]
    .filter((each) => each !== '')
    .join('&');
  const [upload] = all('upload-file');
  const body = has('get') ? undefined : (filesOf(options, upload, type) ?? bodyOf(data, type));
  const method = all('request')[0]?.toUpperCase() ?? usualMethod(has('head'), upload !== undefined, body !== undefined);
  const request: DraftRequest = {
    ...requestOfParts(method, { url: target.url, rawQuery }, headers, body),
    basic: all('user')[0],
    timeout: secondsOf(all('max-time')[0]),
  };
  const more = urls.length > 1 ? [`only the first URL is taken, and not ${urls.slice(1).join(', ')}`] : [];
  return {
    request,
    notes: [...new Set([...options.flatMap(({ name }) => noteOn(name)), ...typeNote(data, type, body), ...more])],
  };
}

function usualMethod(isHead: boolean, isUpload: boolean, hasBody: boolean): string {
  if (isHead) return 'HEAD';
  return isUpload ? 'PUT' : hasBody ? 'POST' : 'GET';
}

/** curl itself would send JSON that has no type as a form. */
function typeNote(data: Data | undefined, type: string | undefined, body: DraftBody | undefined): readonly string[] {
  if (type !== undefined || !data || data.isJson || body?.kind !== 'json') return [];
  return ['the body is JSON and is sent as application/json, which the command does not say'];
}

function secondsOf(said = ''): string | undefined {
  return /^[0-9.]+$/.test(said) ? `${said}s` : undefined;
}

function noteOn(name: string): readonly string[] {
  if (HONOURED.has(name) || WITHOUT_EFFECT.has(name)) return [];
  if (name === 'insecure')
    return ['-k is left out: certificates are verified; tls: {verify: false} of an API says otherwise'];
  if (name === 'proxy') return ['-x is left out: proxy: of an API, or HTTPS_PROXY, names a proxy'];
  if (name === 'output') return ['-o is left out: save: writes a response to a file'];
  return [`${name.startsWith('-') ? name : `--${name}`} is ignored`];
}

function headersOf(lines: readonly string[], options: readonly Option[]): readonly (readonly [string, string])[] {
  const of = (option: string, header: string) =>
    options.filter(({ name }) => name === option).map(({ value }) => [header, value] as const);
  const said = lines.flatMap((line) => {
    const [name, value] = splitOnce(line, ':');
    return value === undefined || value.trim() === '' ? [] : [[name.trim(), value.trim()] as const];
  });
  const given = [
    ...said,
    ...of('user-agent', 'User-Agent'),
    ...of('referer', 'Referer'),
    ...of('cookie', 'Cookie'),
    ...of('oauth2-bearer', 'Authorization').map(([name, value]) => [name, `Bearer ${value}`] as const),
    ...(options.some(({ name }) => name === 'json') ? [['Accept', 'application/json'] as const] : []),
  ];
  // A header that is said twice counts as it was said first; what options add comes behind.
  return given.filter(([name], i) => given.findIndex(([other]) => other.toLowerCase() === name.toLowerCase()) === i);
}

/** Bodies that are files: fields of a form among which files may be, a file that is sent whole. */
function filesOf(
  options: readonly Option[],
  upload: string | undefined,
  type: string | undefined,
): DraftBody | undefined {
  const fields = options.flatMap(({ name, value }): readonly DraftField[] => {
    if (name !== 'form' && name !== 'form-string') return [];
    const [field, content = ''] = splitOnce(value, '=');
    if (name === 'form-string' || !/^[@<]/.test(content)) return [{ name: field, text: content }];
    const [file = '', ...parts] = content.slice(1).split(';');
    const said = parts.find((part) => part.startsWith('type='))?.slice('type='.length);
    return [{ name: field, file, type: said }];
  });
  if (fields.length > 0) return { kind: 'multipart', fields };
  if (upload !== undefined) return { kind: 'file', path: upload, type };
  const data = options.filter(({ name }) => name === 'json' || /^data(-binary|-ascii)?$/.test(name));
  const [only] = data;
  if (data.length !== 1 || !only?.value.startsWith('@')) return undefined;
  return {
    kind: 'file',
    path: only.value.slice(1),
    type: type ?? (only.name === 'json' ? 'application/json' : undefined),
  };
}

type Data = Readonly<{ text: string; isJson: boolean }>;

/** All data options together, joined by `&` as they are sent. */
function dataOf(options: readonly Option[]): Data | undefined {
  const parts = options.flatMap(({ name, value }) => {
    if (name === 'data-urlencode') return [urlEncoded(value)];
    return name === 'json' || /^data(-raw|-binary|-ascii)?$/.test(name) ? [value] : [];
  });
  if (parts.length === 0) return undefined;
  const isJson = options.some(({ name }) => name === 'json');
  return { text: parts.join(isJson ? '' : '&'), isJson };
}

/** `name=content`, with the content encoded. */
function urlEncoded(value: string): string {
  const [name, content] = splitOnce(value, '=');
  return content === undefined
    ? encodeURIComponent(name)
    : `${name === '' ? '' : `${name}=`}${encodeURIComponent(content)}`;
}

function bodyOf(data: Data | undefined, type: string | undefined): DraftBody | undefined {
  if (!data) return undefined;
  const { text, isJson } = data;
  const saysJson = isJson || (type !== undefined && /json/i.test(type));
  // Documentation often forgets the header; what is an object or a list in JSON is no form.
  if ((saysJson || (type === undefined && /^\s*[[{]/.test(text))) && readJson(text).ok)
    return { kind: 'json', text, type };
  const isForm = type === undefined || /x-www-form-urlencoded/i.test(type);
  if (isForm && isFormText(text)) return { kind: 'form', fields: parametersOf(text) };
  return { kind: 'text', text, type: type ?? 'application/x-www-form-urlencoded' };
}
