import type { DraftForm, ReadOptions, ReadSamples, Sample } from './definition.ts';
import { bodyOfText, firstHeader, requestOfParts, splitTarget } from './request.ts';

/** `GET /vessels HTTP/1.1`, the version left out or not. */
const REQUEST_LINE = /^([A-Z][A-Z-]{1,15})[ \t]+(\S+)(?:[ \t]+HTTP\/[\d.]+)?[ \t]*$/;
const METHODS = /^(?:GET|HEAD|POST|PUT|PATCH|DELETE|OPTIONS|TRACE|CONNECT|QUERY)$/;

/** Request messages as pages print them (RFC 9112), one after another. */
export const httpMessages: DraftForm = {
  name: 'http',
  what: 'HTTP request message',
  recognizes: (text) => {
    const line = REQUEST_LINE.exec(text.trimStart().split(/\r?\n/, 1)[0]!);
    return line !== null && METHODS.test(line[1]!);
  },
  read: readMessages,
};

type Message = Readonly<{
  method: string;
  target: string;
  headers: readonly (readonly [string, string])[];
  body: string;
}>;

function readMessages(text: string, options: ReadOptions): ReadSamples {
  const samples: Sample[] = [];
  const notes = new Set<string>();
  let rest = text.replace(/^(?:[ \t]*\r?\n)+/, '');
  while (rest !== '') {
    const read = messageAt(rest);
    if ('message' in read) return read;
    const sample = sampleOf(read.found, options, notes);
    if ('message' in sample) return sample;
    samples.push(sample);
    rest = rest.slice(read.length).replace(/^(?:[ \t]*\r?\n)+/, '');
  }
  return { samples, notes: [...notes] };
}

type NotRead = Readonly<{ message: string; advice?: string }>;

/** The message at the beginning of a text, and the characters that it takes. */
function messageAt(text: string): Readonly<{ found: Message; length: number }> | NotRead {
  const head = /^([^\r\n]*)(\r?\n|$)/.exec(text)!;
  const line = REQUEST_LINE.exec(head[1]!);
  if (!line)
    return { message: `"${head[1]!.slice(0, 60)}" is no request line`, advice: 'It begins as: GET /path HTTP/1.1' };
  let at = head[0].length;
  const headers: (readonly [string, string])[] = [];
  for (;;) {
    const field = /^([!#$%&'*+.^_`|~\w-]+):[ \t]*([^\r\n]*?)[ \t]*(?:\r?\n|$)/.exec(text.slice(at));
    if (!field) break;
    headers.push([field[1]!, field[2]!]);
    at += field[0].length;
  }
  const blank = /^[ \t]*(?:\r?\n|$)/.exec(text.slice(at));
  if (!blank) {
    const odd = text.slice(at).split(/\r?\n/, 1)[0]!;
    return {
      message: `"${odd.slice(0, 60)}" is no header`,
      advice: 'A blank line stands between the headers and the body.',
    };
  }
  at += blank[0].length;
  const body = bodyAt(text.slice(at), headers);
  return { found: { method: line[1]!, target: line[2]!, headers, body: body.text }, length: at + body.length };
}

/** A body ends where its length says, else where a request line behind a blank line begins another message. */
function bodyAt(text: string, headers: Message['headers']): Readonly<{ text: string; length: number }> {
  const said = firstHeader(headers, 'content-length');
  if (said !== undefined && /^\d+$/.test(said)) {
    const bytes = new TextEncoder().encode(text).subarray(0, Number(said));
    const body = new TextDecoder().decode(bytes);
    return { text: body, length: body.length };
  }
  const first = text.replace(/^(?:[ \t]*\r?\n)+/, '').split(/\r?\n/, 1)[0]!;
  if (METHODS.test(REQUEST_LINE.exec(first)?.[1] ?? '')) return { text: '', length: 0 };
  const lines = [...text.matchAll(/\r?\n[ \t]*\r?\n(?=([^\r\n]*))/g)];
  const next = lines.find(({ 1: line }) => METHODS.test(REQUEST_LINE.exec(line!)?.[1] ?? ''));
  const length = next?.index ?? text.length;
  // The line break at the end of a paste is no part of the body.
  return { text: text.slice(0, length).replace(/(?:\r?\n)+$/, ''), length };
}

/** Headers that say where and how a message goes, and not what it says. */
const OF_THE_WAY: ReadonlySet<string> = new Set(['host', 'content-length', 'connection', 'transfer-encoding']);

function sampleOf(message: Message, { isPlain }: ReadOptions, notes: Set<string>): Sample | NotRead {
  const { method, target, headers, body } = message;
  const url = urlOf(target, headers, isPlain);
  if (url === undefined)
    return {
      message: `"${method} ${target}" names no host`,
      advice: 'Add its header, for example: Host: harbour.example',
    };
  const transfer = firstHeader(headers, 'transfer-encoding');
  if (transfer !== undefined) notes.add(`Transfer-Encoding: ${transfer} is left out: a body is sent with its length`);
  const kept = headers.filter(([name]) => !OF_THE_WAY.has(name.toLowerCase()));
  const draftBody = body === '' ? undefined : bodyOfText(body, firstHeader(headers, 'content-type'));
  return { request: requestOfParts(method, splitTarget(url), kept, draftBody) };
}

const LOCAL = /^(?:localhost|127\.\d+\.\d+\.\d+|\[::1\])(?::\d+)?$/;

/** The whole URL of a message: by its host, with TLS unless that is this machine, or is known to be without. */
function urlOf(target: string, headers: Message['headers'], isPlain: ReadOptions['isPlain']): string | undefined {
  if (/^https?:\/\//i.test(target)) return target;
  const host = firstHeader(headers, 'host');
  if (host === undefined || host === '') return undefined;
  const scheme = LOCAL.test(host) || isPlain?.(host) ? 'http' : 'https';
  return `${scheme}://${host}${target.startsWith('/') ? '' : '/'}${target}`;
}
