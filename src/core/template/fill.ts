import type { Code } from '../diagnostics/catalogue.ts';
import type { Problem } from '../diagnostics/problem.ts';
import { diagnosticIn, type Diagnostic, type Source } from '../diagnostics/source.ts';
import { textOf } from '../value/text.ts';
import { wrapped, writeJson } from '../value/json-write.ts';
import { Bytes, Duration, isList, isObject, type Maybe, type Value } from '../value/value.ts';
import { onlyPlaceholder, type Placeholder, type TextTemplate, type ValueTemplate } from './template.ts';

/** Ends the building of a request; carries what is wrong and where in the chain file. */
export class FillFault extends Error {
  constructor(readonly diagnostic: Diagnostic) {
    super(diagnostic.message);
  }
}

export function fillFault(source: Source, problem: Problem): never {
  throw new FillFault(diagnosticIn(source, problem));
}

/**
 * Gives the values of placeholders. `value` throws `FillFault` when the expression has an error; nothing is returned as
 * `undefined`. `leavesOut` says whether a placeholder's nothing is an optional input that was not given.
 */
export type Resolver = Readonly<{
  value(placeholder: Placeholder): Maybe;
  leavesOut(placeholder: Placeholder): boolean;
  /** Whether a record is made, in which masks stand that no request could hold. */
  forRecord: boolean;
}>;

/** What a template gives where a thing may be left out: a value, or that it is to be left out. */
export type Filled = Readonly<{ value: Value }> | 'left-out';

/** The value of a template for a JSON member, a query parameter or a header: a lone placeholder keeps its value's kind. */
export function fillValue(template: ValueTemplate, resolver: Resolver): Filled {
  switch (template.kind) {
    case 'constant':
      return { value: template.value };
    case 'text': {
      const placeholder = onlyPlaceholder(template);
      if (!placeholder) return { value: fillText(template, resolver) };
      const value = resolver.value(placeholder);
      if (value !== undefined) return { value };
      return resolver.leavesOut(placeholder) ? 'left-out' : foundNothing(placeholder);
    }
    case 'list':
      return {
        value: template.items
          .map((item) => fillValue(item, resolver))
          .flatMap((item) => (item === 'left-out' ? [] : [item.value])),
      };
    case 'object': {
      const filled = template.members.map(([name, member]) => [name, fillValue(member, resolver)] as const);
      return {
        value: Object.fromEntries(filled.flatMap(([name, item]) => (item === 'left-out' ? [] : [[name, item.value]]))),
      };
    }
  }
}

/** The values of a parameter or field: none where it is left out or null, several where it is a list. */
export function parameterValues(template: ValueTemplate, resolver: Resolver): readonly Value[] {
  const filled = fillValue(template, resolver);
  if (filled === 'left-out') return [];
  return (isList(filled.value) ? filled.value : [filled.value]).filter((value) => value !== null);
}

/** A text with its placeholders filled; each value must have a form inside text. */
export function fillText(template: TextTemplate, resolver: Resolver): string {
  let text = '';
  for (const piece of template.pieces) {
    text += typeof piece === 'string' ? piece : placeholderText(piece, resolver.value(piece));
  }
  return text;
}

/** The text that a placeholder's value stands for inside longer text. */
export function placeholderText(placeholder: Placeholder, value: Maybe): string {
  if (value === undefined) foundNothing(placeholder);
  const text = textOf(value);
  if (typeof text === 'string') return text;
  const message = `This placeholder is ${text.what}, which cannot be part of a string`;
  return fillFault(placeholder.source, {
    code: 'invalid-value',
    range: placeholder.range,
    message,
    advice: text.advice,
  });
}

/**
 * The name of a file: the value of each placeholder is one part of a path, so that none can lead elsewhere. Only what is exactly
 * a file that the command line named is taken as it is.
 */
export function fillFileName(
  template: TextTemplate,
  resolver: Resolver,
  named: ReadonlySet<string> = NO_FILES,
): string {
  const lone = onlyPlaceholder(template);
  const whole = lone && resolver.value(lone);
  if (typeof whole === 'string' && named.has(whole)) return whole;
  return template.pieces
    .map((piece) => {
      if (typeof piece === 'string') return piece;
      const part = placeholderText(piece, resolver.value(piece));
      if (!/[/\\\u0000-\u001f\u007f]|^\.{0,2}$/.test(part)) return part;
      const message = `The value is ${JSON.stringify(part)}, which cannot be part of a file name`;
      const advice = "Convert it with replaced(), for example {replaced(vessel.id, '/', '-')}.";
      return fillFault(piece.source, { code: 'invalid-value', range: piece.range, message, advice });
    })
    .join('');
}

const NO_FILES: ReadonlySet<string> = new Set();

/** A placeholder without a value where one is needed; `why` says how far its path got, and what is there instead. */
export function foundNothing(
  placeholder: Placeholder,
  why?: Readonly<{ code: Code; message: string; advice?: string }>,
): never {
  const written = placeholder.source.text.slice(...placeholder.range).trim();
  const isBraced = written.startsWith('{');
  const source = isBraced ? written.slice(1, -1).trim() : written;
  const fallback = isBraced ? `{${source} ?? ...}` : `${source} ?? ...`;
  const otherwise = why?.code === 'not-answered' ? '' : `Write ${fallback} with a value for that case.`;
  const advice = [why?.advice, otherwise].filter(Boolean).join(' ');
  return fillFault(placeholder.source, {
    code: why?.code ?? 'found-nothing',
    range: placeholder.range,
    message: why?.message ?? `${source} found nothing`,
    ...(advice === '' ? {} : { advice }),
  });
}

/**
 * Writes a template as JSON text, once and in the order of the file, numbers in their source text. An optional input
 * that was not given leaves its member out.
 */
export function fillJson(template: ValueTemplate, resolver: Resolver, indent = 0): string | undefined {
  switch (template.kind) {
    case 'constant':
      return writeJson(template.value, indent);
    case 'text': {
      const filled = fillValue(template, resolver);
      if (filled === 'left-out') return undefined;
      refuseUnwritable(template, filled.value);
      return writeJson(filled.value, indent);
    }
    case 'list': {
      const items = template.items.map((item) => fillJson(item, resolver, indent)).filter((item) => item !== undefined);
      return wrapped('[', items, ']', indent);
    }
    case 'object': {
      const gap = indent > 0 ? ' ' : '';
      const members = template.members.flatMap(([name, member]) => {
        const text = fillJson(member, resolver, indent);
        return text === undefined ? [] : [`${JSON.stringify(name)}:${gap}${text}`];
      });
      return wrapped('{', members, '}', indent);
    }
  }
}

/** Durations and bytes have no JSON form that an API could be meant to understand. */
function refuseUnwritable(template: TextTemplate, value: Value): void {
  if (value instanceof Duration || value instanceof Bytes) {
    const text = textOf(value);
    if (typeof text === 'string') return;
    const message = `This placeholder is ${text.what}, which JSON cannot represent`;
    fillFault(template.source, {
      code: 'invalid-value',
      range: onlyPlaceholder(template)!.range,
      message,
      advice: text.advice,
    });
  }
  if (isList(value)) value.forEach((item) => refuseUnwritable(template, item));
  else if (isObject(value)) Object.values(value).forEach((item) => refuseUnwritable(template, item));
}
