import { readJson } from '../value/json-read.ts';
import type { Value } from '../value/value.ts';

/**
 * Reads `text/event-stream` (WHATWG HTML section 9.2.6) piece by piece as it arrives. By hand: the package for it forgets
 * the id of an event without data, and keeps a byte order mark.
 */
export class EventReader {
  private rest = '';
  private isFirst = true;
  private name = '';
  private id = '';
  private data: string[] = [];

  /** The events that a further piece completes. */
  push(piece: string): readonly Value[] {
    let text = this.rest + piece;
    if (this.isFirst && text !== '') {
      this.isFirst = false;
      if (text.charCodeAt(0) === 0xfeff) text = text.slice(1);
    }
    // A CR at the end may be half of a line break.
    const held = text.endsWith('\r') ? '\r' : '';
    const lines = text.slice(0, text.length - held.length).split(/\r\n|\n|\r/);
    this.rest = lines.pop()! + held;
    return lines.flatMap((line) => this.line(line));
  }

  private line(line: string): readonly Value[] {
    if (line === '') return this.dispatch();
    const colon = line.indexOf(':');
    const field = colon < 0 ? line : line.slice(0, colon);
    const value = colon < 0 ? '' : line.slice(colon + 1).replace(/^ /, '');
    if (field === 'event') this.name = value;
    else if (field === 'data') this.data.push(value);
    else if (field === 'id' && !value.includes('\0')) this.id = value;
    return [];
  }

  /** `data` is decoded when it is JSON. */
  private dispatch(): readonly Value[] {
    const { name, id, data } = this;
    this.name = '';
    this.data = [];
    if (data.length === 0) return [];
    const text = data.join('\n');
    const json = readJson(text);
    return [{ event: name === '' ? 'message' : name, id, data: json.ok ? json.value : text }];
  }
}

/** All events of a text. */
export function readEvents(text: string): Value {
  const reader = new EventReader();
  return [...reader.push(text)];
}
