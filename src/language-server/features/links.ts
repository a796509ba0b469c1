import path from 'node:path';
import { existsSync } from 'node:fs';
import { stepsOf } from '../../core/chain/steps/inside.ts';
import { linksOf } from '../../core/editor/outline.ts';
import { uriOf } from '../buffers.ts';
import type { Feature } from '../feature.ts';

/** Names of files lead to those files: chains, schemas, tables, and what is written. */
export const links: Feature = {
  capabilities: { documentLinkProvider: {} },
  register(connection, desk) {
    connection.onDocumentLinks(({ textDocument }) => {
      const opened = desk.opened(textDocument.uri);
      const chain = opened?.kind === 'chain' ? opened.project.chainAt(opened.buffer.file) : undefined;
      if (!opened || !chain) return [];
      const { lines, file } = opened.buffer;
      return linksOf(chain, stepsOf(chain)).flatMap(({ range, file: name }) => {
        const full = path.resolve(path.dirname(file), name);
        return existsSync(full) ? [{ range: lines.rangeOf(range), target: uriOf(full) }] : [];
      });
    });
  },
};
