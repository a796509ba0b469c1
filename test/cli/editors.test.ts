import { spawn } from 'node:child_process';
import { chmodSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { useDemo } from '../support/harbour.ts';
import { testWith } from '../support/needs.ts';
import { PROGRAM, type Folder } from '../support/program.ts';

const demo = useDemo();
const guide = readFileSync(path.join(__dirname, '../../docs/editors.md'), 'utf8');

/** The lines of configuration that the guide gives for an editor. */
const lines = (language: string) => new RegExp(`\`\`\`${language}\\n([^]*?)\`\`\``).exec(guide)![1]!;

/** Runs an editor without a screen, with `batharon` on its path; gives what its script wrote into `result.json`. */
async function inEditor(folder: Folder, program: string, args: readonly string[]): Promise<Record<string, unknown>> {
  folder.write('bin/batharon', `#!/bin/sh\nexec ${process.execPath} ${PROGRAM} "$@"\n`);
  chmodSync(path.join(folder.path, 'bin/batharon'), 0o755);
  const env = { PATH: `${folder.path}/bin:${process.env['PATH']}`, HOME: folder.path, TERM: 'dumb' };
  const child = spawn(program, args, { cwd: folder.path, env: env as never, stdio: ['ignore', 'pipe', 'pipe'] });
  let said = '';
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (data: Buffer) => (said += String(data)));
  await new Promise((resolve) => child.once('exit', resolve));
  if (!folder.has('result.json')) throw new Error(`${program} wrote nothing: ${said.slice(-800)}`);
  return JSON.parse(folder.read('result.json')) as Record<string, unknown>;
}

const CHAIN =
  "api: harbour\ninputs:\n  day: date\nsteps:\n  - call: arrivals\n    request: GET /arrivals\n    query: { day: '{dya}' }\n";

testWith(['nvim'], 'Neovim with the lines of the guide: problems, completion, meaning', async () => {
  const folder = demo();
  folder.write('chains/typed.chain.yaml', CHAIN);
  folder.write('init.lua', lines('lua'));
  folder.write(
    'script.lua',
    `
    vim.cmd('edit chains/typed.chain.yaml')
    vim.wait(20000, function() return #vim.diagnostic.get(0) > 0 end, 20)
    local found = {}
    for _, each in ipairs(vim.diagnostic.get(0)) do table.insert(found, each.message) end
    local function ask(method, line, character)
      local params = { textDocument = vim.lsp.util.make_text_document_params(), position = { line = line, character = character } }
      for _, answer in pairs(vim.lsp.buf_request_sync(0, method, params, 20000) or {}) do return answer.result end
    end
    local labels = {}
    for _, item in ipairs(ask('textDocument/completion', 6, 20)) do table.insert(labels, item.label) end
    local hover = ask('textDocument/hover', 5, 6).contents.value
    local file = io.open('result.json', 'w')
    file:write(vim.fn.json_encode({ problems = found, labels = labels, hover = hover }))
    file:close()
    vim.cmd('qall!')
    `,
  );
  const result = await inEditor(folder, 'nvim', [
    '--headless',
    '--clean',
    '-u',
    'init.lua',
    '-c',
    'luafile script.lua',
  ]);
  expect(result['problems']).toEqual([expect.stringMatching(/Unknown name "dya"\nDid you mean "day"\?/)]);
  expect(result['labels']).toEqual(expect.arrayContaining(['day', 'length']));
  expect(result['hover']).toContain('METHOD and target');
});
