// The licences of the packages whose code is in the bundles, as their authors ask: one text, made from what is bundled.
import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { root } from './bundle.mjs';

/** The folders of the packages that the sources stand in, inner ones included. */
function packageFolders(sources) {
  const folders = sources.flatMap((source) => /^(?:.*\/)?node_modules\/(?:@[^/]+\/)?[^/]+/.exec(source)?.[0] ?? []);
  return [...new Set(folders)];
}

function licenceOf(folder) {
  const manifest = JSON.parse(readFileSync(path.join(root, folder, 'package.json'), 'utf8'));
  const file = readdirSync(path.join(root, folder)).find((name) => /^(licen[cs]e|copying)/i.test(name));
  const author = typeof manifest.author === 'string' ? manifest.author : manifest.author?.name;
  return {
    name: `${manifest.name} ${manifest.version}`,
    licence: typeof manifest.license === 'string' ? manifest.license : 'see the text',
    text: file
      ? readFileSync(path.join(root, folder, file), 'utf8')
          .replace(/\r\n/g, '\n')
          .trim()
      : `The package holds no licence text; it names ${manifest.license}${author ? ` and the author ${author}` : ''}.`,
  };
}

/** The text of NOTICES: each licence once, under the names of the packages that it goes with. */
export function noticesOf(sources) {
  const byText = new Map();
  for (const { name, licence, text } of packageFolders(sources).map(licenceOf)) {
    const entry = byText.get(text) ?? { licence, names: new Set() };
    byText.set(text, { ...entry, names: entry.names.add(name) });
  }
  const parts = [...byText]
    .map(([text, { licence, names }]) => ({ heading: `${[...names].sort().join(', ')} (${licence})`, text }))
    .sort((a, b) => (a.heading < b.heading ? -1 : 1));
  const line = '-'.repeat(80);
  return [
    'Batharon contains code of the packages below. Each is used under its own licence.',
    ...parts.map(({ heading, text }) => `${line}\n${heading}\n\n${text}`),
  ]
    .join('\n\n')
    .concat('\n');
}
