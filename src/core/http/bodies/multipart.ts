import * as z from 'zod';
import { fileName, named, parameter, text, word, type Named } from '../../schema/leaves.ts';
import { taking } from '../../schema/input.ts';
import { mapping, placedOf } from '../../schema/shape.ts';
import { fillFault, fillFileName, fillText, parameterValues } from '../../template/fill.ts';
import { namedTexts, textsOf, type TextTemplate, type ValueTemplate } from '../../template/template.ts';
import { textOf } from '../../value/text.ts';
import { mediaTypeOfFile } from '../media-types.ts';
import { assembled, opened } from './assemble.ts';
import type { BodyKind } from './definition.ts';

/** A field of a form with files: a text, several of them, or a file. */
type Field =
  | Readonly<{ kind: 'text'; value: ValueTemplate }>
  | Readonly<{ kind: 'file'; file: TextTemplate; type: string | undefined; filename: TextTemplate | undefined }>;

const fileField = mapping({
  file: fileName().describe('The file.'),
  type: word('a media type').optional().describe('Its media type. Default: by the extension of its name.'),
  filename: text('a file name').optional().describe('The file name that is sent. Default: its own.'),
}).transform(({ file, type, filename }): Field => ({ kind: 'file', file, type: type?.text, filename }));

const textField = parameter().transform((value): Field => ({ kind: 'text', value }));

/** A mapping is a file; all else is the text of a field. */
const field = () =>
  taking(
    z.transform((projected: unknown, context): Field => {
      const { node } = placedOf(projected);
      const parsed = (node.kind === 'map' ? fileField : textField).safeParse(projected);
      if (parsed.success) return parsed.data;
      for (const issue of parsed.error.issues)
        context.issues.push({ ...issue, input: projected } as z.core.$ZodRawIssue);
      return z.NEVER;
    }),
    (input) => ({
      what: 'a string or a file',
      json: { anyOf: [input(textField).json, input(fileField).json] },
    }),
  );

/** `multipart/form-data` (RFC 7578): fields in order, files as streams. */
export const multipart: BodyKind<Named<Field>> = {
  key: 'multipart',
  schema: named(field()).describe('Fields by name, each a string or {file, type, filename}; files are streamed.'),
  type: (_fields, boundary) => `multipart/form-data; boundary=${boundary}`,
  texts: (fields) =>
    fields.flatMap(({ value }) =>
      value.kind === 'text' ? textsOf(value.value) : [value.file, ...(value.filename ? [value.filename] : [])],
    ),
  named: (fields) => fields.flatMap(({ name, value }) => (value.kind === 'text' ? namedTexts(value.value, name) : [])),
  files: (fields) => fields.flatMap(({ value }) => (value.kind === 'file' ? [value.file] : [])),
  build: (fields, resolver, host) => {
    const parts = fields.flatMap((entry) => {
      const { name, value } = entry;
      const head = (more: string) =>
        `--${host.boundary}\r\nContent-Disposition: form-data; name="${quoted(name)}"${more}\r\n\r\n`;
      if (value.kind === 'text') {
        return parameterValues(value.value, resolver).flatMap((each) => {
          const shown = textOf(each);
          if (typeof shown === 'string') return [head(''), shown, '\r\n'];
          const source = { file: entry.file, text: name, locate: () => entry.nameRange };
          const message = `The field "${name}" is ${shown.what}, which a form field cannot represent`;
          return fillFault(source, { code: 'invalid-value', range: entry.nameRange, message, advice: shown.advice });
        });
      }
      const path = fillFileName(value.file, resolver, host.namedFiles);
      const file = opened(path, value.file.source, host);
      const filename = value.filename ? fillText(value.filename, resolver) : file.name;
      const type = value.type ?? mediaTypeOfFile(path);
      return [head(`; filename="${quoted(filename)}"\r\nContent-Type: ${type}`), file, '\r\n'];
    });
    return assembled([...parts, `--${host.boundary}--\r\n`]);
  },
};

/** RFC 7578 section 2, as the WHATWG writes it: line breaks and quotes are percent-encoded, all else is UTF-8. */
function quoted(name: string): string {
  return name.replace(/[\r\n"]/g, (sign) => ({ '\r': '%0D', '\n': '%0A', '"': '%22' })[sign]!);
}
