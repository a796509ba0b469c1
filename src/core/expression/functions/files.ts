import { utf8Text } from '../../value/utf8.ts';
import { Bytes } from '../../value/value.ts';
import type { Host } from '../host.ts';
import { FunctionFault, type FunctionDefinition } from './definition.ts';
import { optional, textValue } from './parameters.ts';

/** Files of the project, by a path relative to the chain file. */
export const files: readonly FunctionDefinition[] = [
  {
    name: 'read_file',
    parameters: [textValue('path'), optional(textValue('as'))],
    result: undefined,
    needsHost: true,
    errors: 'The file does not exist, is outside the project, exceeds 64 MiB, or is not UTF-8 when read as text.',
    about: "The content of a file as text (UTF-8), or as bytes with 'bytes'; the path is relative to the chain file.",
    alias: ['file', 'load_file', 'include', 'slurp', 'open'],
    example: ["read_file('notes.txt')", "'moored at N1'"],
    evaluate: (host: Host, path: string, as = 'text') => {
      if (as !== 'text' && as !== 'bytes') throw new FunctionFault(`A file is read as 'text' or 'bytes'`, undefined, 1);
      const bytes = bytesOf(host, path);
      if (as === 'bytes') return new Bytes(bytes);
      const text = utf8Text(bytes);
      if (text !== undefined) return text;
      throw new FunctionFault(`${path} is not UTF-8`, `To read it as bytes: read_file('${path}', 'bytes').`);
    },
  },
  {
    name: 'file_size',
    parameters: [textValue('path')],
    result: 'number',
    needsHost: true,
    errors: 'The file does not exist, or is outside the project.',
    about: 'The size of a file in bytes; the path is relative to the chain file.',
    alias: ['filesize', 'size_of_file'],
    example: ["file_size('notes.txt')", '12'],
    evaluate: (host: Host, path: string) => bytesOf(host, path).length,
  },
];

function bytesOf(host: Host, path: string): Uint8Array {
  const read = host.readFile(path);
  if ('bytes' in read) return read.bytes;
  throw new FunctionFault(read.message, read.advice);
}
