import { DescriptionFault } from '../../core/contract/documents.ts';
import type { Description } from '../../core/contract/description.ts';
import type { MediaType, Operation } from '../../core/contract/operation.ts';
import { membersOf, plainList, plainObject } from '../../core/contract/plain.ts';
import { Shaper } from '../../core/contract/shape-at.ts';
import type { Palette } from './palette.ts';
import { cut, padded } from './text.ts';

type Shown = Readonly<{ isWhole: boolean; columns: number; palette: Palette }>;

/** Columns that the longest paths may take. */
const MAX_PATH = 44;

/** A line for each operation; with `isWhole` also what it needs and gives. */
export function operationLines(
  operations: readonly Operation[],
  description: Description,
  { isWhole, columns, palette }: Shown,
): readonly string[] {
  const width = Math.min(MAX_PATH, Math.max(...operations.map(({ path }) => path.length)));
  const ids = Math.min(28, Math.max(...operations.map(({ id = '' }) => id.length)));
  return operations.flatMap((operation) => {
    const { method, path, id = '', summary = '', isDeprecated } = operation;
    const words = isDeprecated ? `deprecated; ${summary}` : summary;
    const head = `${padded(method, 7)}${padded(path, width)}  ${padded(id, ids)}  `;
    const line = `${head}${palette.quiet(cut(words, Math.max(20, columns - head.length)))}`.trimEnd();
    return isWhole ? [line, ...detailLines(operation, description, columns, palette), ''] : [line];
  });
}

function detailLines(
  operation: Operation,
  description: Description,
  columns: number,
  palette: Palette,
): readonly string[] {
  const rows = (label: string, texts: readonly string[]) =>
    texts.map((text, k) => {
      const head = palette.quiet(padded(k === 0 ? label : '', 8));
      return `       ${head}${cut(text, Math.max(40, columns - 15))}`;
    });
  try {
    return [...rows('needs', needs(operation, description)), ...rows('gives', gives(operation, description))];
  } catch (error) {
    if (!(error instanceof DescriptionFault)) throw error;
    return rows('broken', [error.message]);
  }
}

/** Parameters with their types, the body, and credentials. */
function needs({ parameters, body, security }: Operation, description: Description): readonly string[] {
  const shaper = new Shaper(description);
  const given = parameters.map(({ name, in: place, required, schema, about }) => {
    const type = schema ? shaper.typeWords([schema]) : '';
    const optional = required ? '' : ', optional';
    return `${name} (${place}${type === '' ? '' : `, ${type}`}${optional})${about ? `  ${about.split('\n')[0]}` : ''}`;
  });
  const bodies = (body?.content ?? []).map((each) => `body ${contentWords(each, description)}`);
  const schemes = (security ?? description.security).map((each) =>
    membersOf(each)
      .map(([name]) => name)
      .join(' and '),
  );
  const credentials = schemes.filter((each) => each !== '');
  return [...given, ...bodies, ...(credentials.length === 0 ? [] : [`credentials ${credentials.join(' or ')}`])];
}

function gives({ responses }: Operation, description: Description): readonly string[] {
  return responses.map(({ status, about, content }) => {
    const what = content.map((each) => contentWords(each, description)).join(', ');
    return `${status}  ${[what, about?.split('\n')[0]].filter(Boolean).join('  ')}`;
  });
}

/** `application/json {vessel, draught}`: a media type, and the members of an object or of its items. */
function contentWords({ type, schema }: MediaType, { documents }: Description): string {
  const at = schema && documents.followed(schema);
  const own = plainObject(at?.value) ?? {};
  const names = membersOf(own['properties']).map(([name]) => name);
  const required = new Set(plainList(own['required']));
  const shown = names.map((name) => (required.has(name) ? name : `${name}?`));
  return shown.length === 0 ? type : `${type} { ${shown.join(', ')} }`;
}
