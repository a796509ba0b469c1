import { readJson } from '../value/json-read.ts';
import { readXml } from '../value/xml.ts';
import type { ReadAs } from './decode.ts';

/** Bytes from the beginning that are looked at for a form that is read line by line. */
const START = 20_000;

/** What a text is by what stands in it, whatever its media type: an HTML page, or what `read-as` reads; nothing for plain text. */
export function formOfText(text: string): 'html' | Exclude<ReadAs, 'text' | 'bytes' | 'events'> | undefined {
  if (isPage(text)) return 'html';
  const first = text.trimStart()[0];
  if ((first === '{' || first === '[') && readJson(text).ok) return 'json';
  if (first === '<') return 'document' in readXml(text) ? 'xml' : undefined;
  return formOfLines(text.slice(0, START).split(/\r?\n/));
}

function formOfLines([one, two, ...rest]: readonly string[]): 'ndjson' | 'csv' | undefined {
  if (one === undefined || two === undefined || one.trim() === '') return undefined;
  if ([one, two].every((line) => /^\s*\{/.test(line) && readJson(line).ok)) return 'ndjson';
  const columns = (line: string) => line.split(/[,;\t]/).length;
  const rows = [two, ...rest].filter((line) => line !== '').slice(0, 5);
  const isTable = columns(one) > 1 && rows.length > 0 && rows.every((row) => columns(row) === columns(one));
  return isTable ? 'csv' : undefined;
}

function isPage(text: string): boolean {
  return /^\s*(?:<!--[^]*?-->\s*)?(?:<!doctype\s+html|<html[\s>])/i.test(text);
}

/** What to do about a text that was read in another form than its own; nothing for plain text. */
export function readAsAdvice(form: ReturnType<typeof formOfText>): string | undefined {
  if (form === undefined) return undefined;
  if (form === 'html') return 'The server sent an HTML page: check the URL, and whether a sign-in is needed.';
  const reads = form === 'xml' ? ', and read it with xpath()' : '';
  return `It looks like ${form.toUpperCase()}: add read-as: ${form}${reads}.`;
}

const ENTITIES: Readonly<Record<string, string>> = { amp: '&', lt: '<', gt: '>', quot: '"', apos: "'", nbsp: ' ' };

/** What a person reads of an HTML page: its title, then its text line by line. A text that is none stays as it is. */
export function pageText(text: string): string {
  if (!isPage(text)) return text;
  const title = /<title[^>]*>([^]*?)<\/title>/i.exec(text)?.[1] ?? '';
  const body = text
    .replace(/<(head|script|style|noscript|svg)\b[^]*?<\/\1\s*>/gi, '')
    .replace(/<!--[^]*?-->/g, '')
    .replace(/<(?:br|\/?(?:p|div|h[1-6]|li|ul|ol|tr|table|section|header|footer|pre|hr|form))\b[^>]*>/gi, '\n')
    .replace(/<[^>]*>/g, '');
  const lines = `${title}\n${body}`.split('\n').map((line) => withEntities(line).replace(/\s+/g, ' ').trim());
  return lines.filter((line, i) => line !== '' && line !== lines[i - 1]).join('\n');
}

function withEntities(line: string): string {
  return line.replace(/&(?:[#](\d{1,6})|(\w+));/g, (entity, code: string | undefined, name: string | undefined) =>
    code === undefined ? (ENTITIES[name!.toLowerCase()] ?? entity) : String.fromCodePoint(Number(code)),
  );
}
