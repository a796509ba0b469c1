import { Command } from 'commander';
import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import * as ts from 'typescript';
import { catalogue } from '../src/core/diagnostics/catalogue.ts';
import { functions } from '../src/core/expression/functions/list.ts';
import { findPages, reference } from '../src/core/reference/find.ts';
import { commandEntries } from '../src/cli/commands/list.ts';
import { helpOfCommand, helpOfProgram } from '../src/cli/help.ts';
import { givenExamples } from '../src/cli/commands/definition.ts';

const root = path.join(__dirname, '..');

/** Names of the first version, by words, so that this file does not hold them itself. */
const OLD = {
  keys: 'takes|gives|use at|pace|at once|wait at most|error text|lasts|known by|brake|at most|together|fits',
  options:
    'take|take from|no input|may change|keeping|spread|stay|alone|most|chains at once|share|keep newest runs|auth none',
  functions: 'text|kind of|each as|where|paired|the one|part|resolved|from entries',
  codes:
    'key twice|eaten by yaml|chain in circle|redirect circle|pages go round|api not said|header not yours|minus touches name|secret gone|goal given up|bad measure|brake pulled|take missing|take unknown|not held|many compared|not a list|call name twice|saved twice|not in contract|known by twice|kept twice|parameter twice|wrong kind|cannot both hold|body not held|hole in key|bad hole|sent as words|yes is text|count of one|blank in target',
  events: 'looked|held|holes|sent print|judged print|gives|takes',
};
const words = (list: string, joint: string) => list.split('|').map((each) => each.split(' ').join(joint));

test('no definition has a name of the first version', async () => {
  const pages = reference().flatMap(({ groups }) => groups.flatMap(({ pages: all }) => all));
  const keys = pages.filter(({ kind }) => kind === 'key').flatMap(({ name }) => name.split('.'));
  expect(words(OLD.keys, '-').filter((each) => keys.includes(each))).toEqual([]);
  expect(words(OLD.functions, '_').filter((each) => functions.some(({ name }) => name === each))).toEqual([]);
  expect(words(OLD.codes, '-').filter((each) => Object.hasOwn(catalogue, each))).toEqual([]);
  expect(Object.keys(catalogue).filter((each) => each.startsWith('bad-'))).toEqual([]);
  const options = new Set((await commands()).flatMap(({ options: own }) => own.flatMap(({ long }) => long ?? [])));
  expect(words(OLD.options, '-').filter((each) => options.has(`--${each}`))).toEqual([]);
  const schema = readFileSync(path.join(root, 'docs/journal.schema.json'), 'utf8');
  const camel = words(OLD.events, ' ').map((each) =>
    each.replace(/ (\w)/g, (_all, letter: string) => letter.toUpperCase()),
  );
  expect(camel.filter((each) => schema.includes(`"${each}"`))).toEqual([]);
});

/** Names that occur in no other sense. */
const TELLING = [
  ...words('use at|wait at most|error text|known by|when told|at once', '-'),
  ...words('take from|may change|keeping|chains at once|no input', '-').map((each) => `--${each}`),
  ...words('each as|kind of|the one|from entries', '_'),
  ...words(OLD.codes, '-').filter((each) => each !== 'not-held'),
  ...words('lane|lanes|pace|paces', ''),
  'type: text(?!/)',
];

test.each(filesBelow('src', 'demo', 'docs', 'bench', 'scripts'))('%s has no name of the first version', (file) => {
  const text = readFileSync(path.join(root, file), 'utf8');
  expect(TELLING.filter((each) => new RegExp(`(?<![\\w-])${each}(?![\\w-])`).test(text))).toEqual([]);
});

/** Phrases that a native technical writer would not use. */
const PHRASES = [
  /\bgo(es)? on with\b/i,
  /\band (?!there)[^.,;]{1,40} is none\b/i,
  /\b(is|are) told\b/i,
  /\btid(ied|y|ies)\b/i,
  /\bunless said\b/i,
  /\bmay be left out\b/i,
  /\bholes?\b/i,
  /\ba mistake in batharon\b/i,
  /\bin a circle\b/i,
  /\bas it stands\b/i,
  /\bdoes not hold\b/i,
  /\bexpectations? held\b/i,
  /\bis no (list|text|number|JSON|YAML|URL|XML|path|file)\b/i,
  /\bwants [A-Z]{3,}/,
];
const foreign = (text: string) => PHRASES.flatMap((phrase) => phrase.exec(text)?.[0] ?? []);

test('help is plain English', async () => {
  expect(foreign(helpOfProgram(100))).toEqual([]);
  for (const command of await commands()) {
    const entry = commandEntries.find(({ name }) => name === command.name())!;
    const help = helpOfCommand(command, command.createHelp(), entry, givenExamples(command), 100);
    expect([command.name(), foreign(help)]).toEqual([command.name(), []]);
    expect(help).toContain('\nExamples:\n');
    expect(
      Math.max(
        ...help
          .split('\nExamples:\n')[0]!
          .split('\n')
          .map((line) => line.length),
      ),
    ).toBeLessThanOrEqual(100);
  }
});

test.each(
  filesBelow('docs')
    .filter((file) => file.endsWith('.md'))
    .concat('README.md', 'CONTRIBUTING.md', 'CHANGELOG.md'),
)('%s is plain English', (file) => expect(foreign(readFileSync(path.join(root, file), 'utf8'))).toEqual([]));

test('messages, codes and pages are plain English', () => {
  const said: string[] = Object.values(catalogue).map(({ title }) => title);
  const pages = reference().flatMap(({ groups }) => groups.flatMap(({ pages: all }) => all));
  said.push(...pages.flatMap(({ paragraphs, rows }) => [...paragraphs, ...rows.map(({ text }) => text)]));
  for (const file of filesBelow('src')) said.push(...proseOf(file));
  expect(said.flatMap(foreign)).toEqual([]);
});

test('every word of a code, a key and an option is found by about', () => {
  for (const name of [...Object.keys(catalogue), ...functions.map((each) => each.name)])
    expect([name, findPages(name).length > 0]).toEqual([name, true]);
});

async function commands(): Promise<readonly Command[]> {
  return Promise.all(
    commandEntries.map(async ({ name, load }) => {
      const command = new Command(name);
      (await load()).command.define(command, async () => {}, commandEntries);
      return command;
    }),
  );
}

/** What a file says to people: its strings of several words. */
function proseOf(file: string): readonly string[] {
  const source = ts.createSourceFile(file, readFileSync(path.join(root, file), 'utf8'), ts.ScriptTarget.ES2022);
  const found: string[] = [];
  const visit = (node: ts.Node): void => {
    if (ts.isImportDeclaration(node)) return;
    if (ts.isStringLiteralLike(node) || ts.isTemplateHead(node) || ts.isTemplateMiddleOrTemplateTail(node)) {
      if (/[a-z]{2} [a-z]/i.test(node.text)) found.push(node.text);
    }
    ts.forEachChild(node, visit);
  };
  visit(source);
  return found;
}

function filesBelow(...folders: readonly string[]): string[] {
  return folders.flatMap((folder) =>
    readdirSync(path.join(root, folder), { recursive: true, withFileTypes: true })
      .filter((each) => each.isFile() && /\.(ts|mjs|md|ya?ml|json)$/.test(each.name))
      .map((each) => path.relative(root, path.join(each.parentPath, each.name)))
      .filter((each) => !each.startsWith('docs/reference')),
  );
}
