// How the sources become the files of dist/: one bundle of the program, and beside it the pieces that few commands need.
import { build } from 'esbuild';
import { readFile } from 'node:fs/promises';
import path from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), '..');

/** Pieces of their own: large, needed by few commands, and sharing no classes with the program. */
const pieces = {
  transport: 'src/adapters/transport.ts',
  harbour: 'src/harbour/server.ts',
  'iconv-lite': 'iconv-lite',
  luxon: 'luxon',
  acorn: 'acorn',
  'js-yaml': 'js-yaml',
  'csv-parse': 'csv-parse/sync',
  'csv-parse-stream': 'csv-parse',
  'csv-stringify': 'csv-stringify/sync',
  xmldom: '@xmldom/xmldom',
  xpath: 'xpath',
  'http-link-header': 'http-link-header',
  oauth4webapi: 'oauth4webapi',
  'tough-cookie': 'tough-cookie',
  prompts: 'src/adapters/prompts.ts',
  ioredis: 'ioredis',
  'open-file': 'src/adapters/open-file.ts',
  'vscode-languageserver': 'vscode-languageserver/node',
  'json-schema': 'src/core/json-schema-packages.ts',
  'picture-page': 'src/core/picture/picture-page.tsx',
  'report-page': 'src/core/report/formats/html/page.tsx',
};

/** Leaves the pieces out of a bundle: importing one becomes requiring its own file. */
const piecesLeftOut = {
  name: 'pieces',
  setup({ onResolve }) {
    for (const [name, entry] of Object.entries(pieces)) {
      const wanted = entry.startsWith('src/') ? `/${path.basename(entry)}` : entry;
      const filter = new RegExp(`(^|/)${wanted.replaceAll('.', '\\.').replace(/^\//, '')}$`);
      onResolve({ filter }, ({ kind }) =>
        kind === 'dynamic-import' || kind === 'require-call' ? { path: `./${name}.cjs`, external: true } : undefined,
      );
    }
  },
};

/** Commander asks for child processes at start, for commands that are programs of their own; there are none here. */
const withoutProcesses = {
  name: 'without-processes',
  setup({ onResolve, onLoad }) {
    onResolve({ filter: /^node:child_process$/ }, ({ importer }) =>
      /[\\/]commander[\\/]/.test(importer) ? { path: 'child_process', namespace: 'empty' } : undefined,
    );
    onLoad({ filter: /.*/, namespace: 'empty' }, () => ({ contents: 'module.exports = {};' }));
  },
};

/** A package has quotation marks of Unicode in a regular expression, which must be written in ASCII as all else. */
const asciiExpressions = {
  name: 'ascii-expressions',
  setup({ onLoad }) {
    onLoad({ filter: /[\\/]powershell-utils[\\/].*\.js$/ }, async ({ path: file }) => {
      const text = await readFile(file, 'utf8');
      const escaped = (sign) => `\\u${sign.charCodeAt(0).toString(16).padStart(4, '0')}`;
      return { contents: text.replace(/[\u0080-\uffff]/g, escaped) };
    });
  },
};

/** Bundles everything. Gives the files, not yet written, and which sources are in them. */
export async function bundle(version) {
  const common = {
    absWorkingDir: root,
    outdir: 'dist',
    outExtension: { '.js': '.cjs' },
    bundle: true,
    format: 'cjs',
    platform: 'node',
    target: 'node20',
    minifySyntax: true,
    minifyWhitespace: true,
    legalComments: 'none',
    logLevel: 'warning',
    metafile: true,
    write: false,
    // Requiring is faster than importing, and code that was read from the cache can do it.
    jsx: 'automatic',
    jsxImportSource: 'preact',
    supported: { 'dynamic-import': false },
    define: { BATHARON_VERSION: JSON.stringify(version) },
    plugins: [piecesLeftOut, withoutProcesses, asciiExpressions],
  };
  const results = await Promise.all([
    build({ ...common, entryPoints: { program: 'src/program.ts' } }),
    build({ ...common, entryPoints: pieces }),
  ]);
  return {
    files: results.flatMap(({ outputFiles }) =>
      outputFiles.map((file) => ({ name: path.basename(file.path), text: file.text })),
    ),
    sources: results.flatMap(({ metafile }) => Object.keys(metafile.inputs)),
  };
}
