import { fileName } from '../../schema/leaves.ts';
import { fillFileName } from '../../template/fill.ts';
import type { TextTemplate } from '../../template/template.ts';
import { mediaTypeOfFile } from '../media-types.ts';
import { assembled, opened } from './assemble.ts';
import type { BodyKind } from './definition.ts';

/** The content of a file, byte for byte. */
export const file: BodyKind<TextTemplate> = {
  key: 'file',
  schema: fileName().describe('A file that is sent as it is; type sets its media type.'),
  type: ({ source }) => mediaTypeOfFile(source.text),
  texts: (path) => [path],
  files: (path) => [path],
  build: (path, resolver, host) =>
    assembled([opened(fillFileName(path, resolver, host.namedFiles), path.source, host)]),
};
