import { Editor } from '../support/editor.ts';
import { useDemo } from '../support/harbour.ts';
import type { Folder } from '../support/program.ts';

const demo = useDemo();
const BERTH = 'chains/berth.chain.yaml';
const DAY = 'chains/harbour-day.chain.yaml';

type Item = { label: string; detail?: string; documentation?: { value: string }; textEdit: { newText: string } };
type Edits = Record<string, { newText: string; range: { start: { line: number } } }[]>;
type Hover = { contents: { value: string } };

/** An editor that is ready, and ended when the work is done. */
async function inEditor<T>(
  folder: Folder,
  work: (editor: Editor) => Promise<T>,
  options: Parameters<Editor['start']>[0] = {},
): Promise<T> {
  const editor = new Editor(folder);
  try {
    await editor.start(options);
    const result = await work(editor);
    expect(await editor.end()).toBe(0);
    return result;
  } finally {
    editor.kill();
  }
}

test('problems of what is typed and not saved, in the file and in those that use it, each with its correction', async () => {
  const folder = demo();
  await inEditor(folder, async (editor) => {
    const text = folder.read(BERTH);
    await editor.open(BERTH);
    await editor.diagnostics(BERTH, (found) => found.length === 0);
    const broken = text.replace('  day: { type', '  date: { type').replace('length($.arrivals)', 'lenght($.arrivals)');
    await editor.change(BERTH, [{ text: broken }]);
    const found = await editor.diagnostics(BERTH, (all) => all.length > 0);
    expect(found.map(({ code }) => code)).toEqual(['unknown-name', 'unknown-function', 'unknown-name']);
    const users = await editor.diagnostics(DAY, (all) => all.length > 0);
    expect(users.map(({ code }) => code)).toContain('unknown-step-input');
    const actions = await editor.of<{ title: string; edit: { changes: Edits } }[]>('codeAction', BERTH, {
      range: found[1]!.range,
      context: { diagnostics: found },
    });
    expect(actions.map(({ title }) => title)).toEqual(['Write - length($.arrivals) >= 1']);
    await editor.change(BERTH, [{ text }]);
    await editor.diagnostics(BERTH, (all) => all.length === 0);
    await editor.diagnostics(DAY, (all) => all.length === 0);
  });
  expect(folder.has('.batharon')).toBe(false);
});

test('completion, hover and lenses show what the last run recorded, and secrets by their masks alone', async () => {
  const folder = demo();
  await folder.run(['run', BERTH]);
  await inEditor(folder, async (editor) => {
    const text = folder.read(BERTH);
    await editor.open(BERTH);
    const names = await editor.at<Item[]>('completion', BERTH, text, 'GET /vessels/{due|[0]');
    expect(names.find(({ label }) => label === 'due')!.detail).toBe('value, last 3 items');
    const members = await editor.at<Item[]>('completion', BERTH, text, '/vessels/{due[0].|vessel}');
    expect(members.find(({ label }) => label === 'vessel')!.detail).toBe("string, last 'SV 347/3'");
    const ofItem = await editor.at<Item[]>('completion', BERTH, text, '$.berths[?@.|taken_by');
    expect(ofItem.map(({ label }) => label)).toEqual(expect.arrayContaining(['taken_by', 'depth', 'id']));
    const hover = await editor.at<Hover>('hover', BERTH, text, 'GET /vessels/{due[0].ve|ssel}');
    expect(hover.contents.value).toMatch(
      /^`due\[0\]\.vessel`[^]*kept by arrivals[^]*last run, \d{4}-\d\d-\d\d \d\d:\d\d: `'SV 347\/3'`$/,
    );
    const lenses = await editor.of<{ command: { title: string } }[]>('codeLens', BERTH);
    expect(lenses.map(({ command: { title } }) => title.replace(/, .*/, ''))).toEqual(
      [200, 200, 200, 201].flatMap((status) => ['preview', `last: ${status}`]),
    );
    for (const { command } of lenses) {
      const shown = await editor.connection.sendRequest<string>('workspace/executeCommand', command);
      expect(shown).toMatch(/(GET|POST) http:\S+\/v1\/[^]*Authorization: Bearer ‹HARBOUR_TOKEN›/);
      expect(editor.shown.at(-1)).toBe(shown);
    }
  });
});

test('a run that ends while the editor is open is seen, and so is one in which another chain used the file', async () => {
  const folder = demo();
  await inEditor(folder, async (editor) => {
    const text = folder.read(BERTH);
    await editor.open(BERTH);
    const last = async () => {
      const names = await editor.at<Item[]>('completion', BERTH, text, 'GET /vessels/{due|[0]');
      return names.find(({ label }) => label === 'due')!.detail;
    };
    expect(await last()).toBe('value');
    await folder.run(['run', DAY]);
    expect(await last()).toMatch(/^value, last \d items?$/);
    const lenses = await editor.of<{ command: { title: string } }[]>('codeLens', BERTH);
    const lens = lenses.find(({ command }) => command.title.startsWith('last: 201'))!;
    expect(await editor.connection.sendRequest('workspace/executeCommand', lens.command)).toMatch(
      /POST http[^]*reservations/,
    );
    const before = await last();
    await folder.run(['run', BERTH, '--input', 'day=2026-05-25']);
    expect(await last()).not.toBe(before);
  });
});

test('recorded values can be switched off', async () => {
  const folder = demo();
  await folder.run(['run', BERTH]);
  await inEditor(
    folder,
    async (editor) => {
      const text = folder.read(BERTH);
      await editor.open(BERTH);
      const names = await editor.at<Item[]>('completion', BERTH, text, 'GET /vessels/{due|[0]');
      expect(names.find(({ label }) => label === 'due')!.detail).toBe('value');
      const members = await editor.at<Item[]>('completion', BERTH, text, '/vessels/{due[0].|vessel}');
      expect(members).toEqual([]);
    },
    { settings: { recordedValues: false } },
  );
});

test('a name is found where it is bound and read, and renamed with the chains that pass it', async () => {
  const folder = demo();
  await inEditor(folder, async (editor) => {
    const text = folder.read(BERTH);
    await editor.open(BERTH);
    const lines = (found: { uri: string; range: { start: { line: number } } }[]) =>
      found.map(({ uri, range }) => `${uri.replace(/.*\//, '')}:${range.start.line + 1}`);
    type Found = Parameters<typeof lines>[0];
    expect(lines(await editor.at<Found>('definition', BERTH, text, "note: 'due {da|y}"))).toEqual([
      'berth.chain.yaml:6',
    ]);
    const all = await editor.at<Found>('references', BERTH, text, "note: 'due {da|y}", {
      context: { includeDeclaration: true },
    });
    expect(lines(all)).toEqual([
      ...['6', '10', '37'].map((line) => `berth.chain.yaml:${line}`),
      'harbour-day.chain.yaml:10',
    ]);
    // The name of a parameter that is sent is not changed by the way.
    const refused = editor.at('rename', BERTH, text, "note: 'due {da|y}", { newName: 'date' });
    await expect(refused).rejects.toThrow('also the name of a query parameter');
    await expect(editor.at('rename', BERTH, text, 'draug|ht: $.draught', { newName: 'due' })).rejects.toThrow(
      'another name',
    );
    const changed = text
      .replace('arrivals{?day}', 'arrivals')
      .replace('state: expected', "state: expected\n      day: '{day}'");
    await editor.change(BERTH, [{ text: changed }]);
    const renamed = await editor.at<{ changes: Edits }>('rename', BERTH, changed, "note: 'due {da|y}", {
      newName: 'date',
    });
    expect(Object.entries(renamed.changes).map(([uri, edits]) => [uri.replace(/.*\//, ''), edits.length])).toEqual([
      ['berth.chain.yaml', 3],
      ['harbour-day.chain.yaml', 1],
    ]);
    expect(editor.shown.at(-1)).toMatch(/^day is an input of berth-for-arrival: command lines/);
  });
});

test('outline, links, and what a message code means', async () => {
  const folder = demo();
  await inEditor(folder, async (editor) => {
    await editor.open(DAY);
    const outline = await editor.of<{ name: string; children: { name: string }[] }[]>('documentSymbol', DAY);
    expect(outline.map(({ name }) => name)).toEqual(['inputs', 'steps', 'outputs']);
    const links = await editor.of<{ target: string }[]>('documentLink', DAY);
    expect(links.map(({ target }) => target.replace(/.*\//, ''))).toContain('berth.chain.yaml');
    const wrong = folder.read(DAY).replace('outputs.', 'outputs.no_such_');
    await editor.change(DAY, [{ text: wrong }]);
    const [first] = await editor.diagnostics(DAY, (found) => found.length > 0);
    const { contents } = await editor.of<Hover>('hover', DAY, { position: first!.range.start });
    expect(contents.value).toContain(`error ${first!.code}`);
  });
});

test.each(['utf-8', 'utf-16'])(
  'columns count units of %s, in what is asked and in what is changed',
  async (encoding) => {
    const folder = demo();
    await inEditor(
      folder,
      async (editor) => {
        const line = "  - say: 'Blåsjø 🌊 {dau}'";
        await editor.open(BERTH, `api: harbour\ninputs:\n  day: date\nsteps:\n${line}\n`);
        const [wrong] = await editor.diagnostics(BERTH, (found) => found.some(({ code }) => code === 'unknown-name'));
        const width = (text: string) => (encoding === 'utf-8' ? Buffer.byteLength(text) : text.length);
        const start = { line: 4, character: width(line.slice(0, line.indexOf('dau'))) };
        expect(wrong!.range).toEqual({ start, end: { line: 4, character: start.character + 3 } });
        await editor.change(BERTH, [{ range: wrong!.range, text: 'day' }]);
        await editor.diagnostics(BERTH, (found) => found.every(({ code }) => code !== 'unknown-name'));
      },
      { encodings: [encoding] },
    );
  },
);

test('a request that is not wanted any more is cancelled, and files that others change are seen', async () => {
  const folder = demo();
  await inEditor(folder, async (editor) => {
    await editor.open(DAY);
    await editor.diagnostics(DAY, (found) => found.length === 0);
    folder.write(BERTH, folder.read(BERTH).replace('  day: { type', '  date: { type'));
    await editor.connection.sendNotification('workspace/didChangeWatchedFiles', {
      changes: [{ uri: editor.uri(BERTH), type: 2 }],
    });
    await editor.diagnostics(DAY, (found) => found.some(({ code }) => code === 'unknown-step-input'));
    const { CancellationTokenSource } = await import('vscode-jsonrpc/node');
    const source = new CancellationTokenSource();
    const asked = editor.connection.sendRequest(
      'textDocument/references',
      {
        textDocument: { uri: editor.uri(DAY) },
        position: { line: 0, character: 0 },
        context: { includeDeclaration: true },
      },
      source.token,
    );
    source.cancel();
    await asked.catch(({ code }: { code: number }) => expect(code).toBe(-32800));
  });
});

test('started by hand it says who starts it', async () => {
  const { err } = await demo().run(['language-server', '--nonsense']);
  expect(err).toContain('invalid-option');
});
