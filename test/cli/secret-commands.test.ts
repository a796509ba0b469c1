import { commandOutput } from '../../src/adapters/secret-command.ts';
import { useCounting } from '../support/counting.ts';
import type { Folder } from '../support/program.ts';

const { counting, projectWith } = useCounting();
const VALUE = 'harbour-key-0815';

const CHAIN = `inputs:
  wanted: { type: boolean, default: true }
steps:
  - each: n in [1, 2, 3]
    steps:
      - call: one
        when: wanted
        request: POST /berths
        headers: { X-Key: '{secret.VAULT_KEY}' }
        json: { n: '{n}' }
  - say: done
`;

/** A project whose secret a script gives, which leaves a line in a file for each time that it runs. */
function projectOf(script: string, chain = CHAIN, words = '[node, give.js, VAULT_KEY]'): Folder {
  const folder = projectWith(chain);
  const before = folder.read('batharon.yaml').trimEnd();
  folder.write('batharon.yaml', `${before}\nsecrets: { VAULT_KEY: { command: ${words}, for: [a] } }\n`);
  folder.write('give.js', `require('fs').appendFileSync('ran', process.argv[2] + '\\n');\n${script}\n`);
  return folder;
}

const GIVES = `console.log('${VALUE}')`;
const ran = (folder: Folder) => (folder.has('ran') ? folder.read('ran').trim().split('\n').length : 0);
const chainFile = (folder: Folder) => folder.all().find(([name]) => name.endsWith('.chain.yaml'))![0];

test('a command runs once a run, when a request needs the secret, and leaves no trace of it', async () => {
  const folder = projectOf(GIVES);
  const file = chainFile(folder);
  const run = await folder.run(['run', file]);
  expect([run.status, counting.posts.length, ran(folder)]).toEqual([0, 3, 1]);
  expect(run.err).toContain('VAULT_KEY is what this command prints: node give.js VAULT_KEY');
  for (const [name, text] of folder.all()) if (name !== 'give.js') expect(text).not.toContain(VALUE);

  // Nothing needs it: a branch that is not taken, checking, what reads a record, and what sends nothing.
  await folder.run(['run', file, '--input', 'wanted=false']);
  for (const args of [
    ['check'],
    ['preview', file],
    ['look'],
    ['runs'],
    ['report'],
    ['forecast', file],
    ['rehearse', file],
  ])
    await folder.run(args);
  expect(ran(folder)).toBe(1);

  const env = { VAULT_KEY: 'of-the-environment' };
  expect([(await folder.run(['run', file], { env })).status, ran(folder)]).toEqual([0, 1]);
  expect((await folder.run(['secrets'])).out).toMatch(/VAULT_KEY +in the output of node +for a/);
});

test('the default of an input may read it, and what nobody agreed to does not run', async () => {
  const chain = `inputs: { key: { type: string, default: '{secret.VAULT_KEY}' } }
steps: [{ call: one, request: POST /berths, headers: { X-Key: '{key}' } }]
`;
  const folder = projectOf(GIVES, chain);
  const refused = await folder.run(['run', chainFile(folder), '--trusted-only']);
  expect([refused.status, refused.all, ran(folder)]).toEqual([2, expect.stringContaining('not-trusted'), 0]);
  expect([(await folder.run(['run', chainFile(folder)])).status, ran(folder)]).toEqual([0, 1]);
});

test.each([
  ['process.exit(3)', undefined, 'The command node, which gives the secret VAULT_KEY, ended with 3'],
  ["console.error('vault is locked'); process.exit(1)", undefined, 'ended with 1: vault is locked'],
  ['', undefined, 'printed nothing'],
  [GIVES, '[no-such-program]', 'The command no-such-program, which gives the secret VAULT_KEY, was not found'],
])('%s %s', async (script, words, message) => {
  const folder = projectOf(script, CHAIN, words);
  const { status, all } = await folder.run(['run', chainFile(folder)], { columns: 400 });
  expect([status, counting.posts]).toEqual([1, []]);
  expect(all).toContain('secret-command-failed: ');
  expect(all).toContain(message);
  expect(all).toContain('set VAULT_KEY in the environment or in secrets.env');
});

test('one that does not end is ended', () => {
  const hang = ['-e', 'setInterval(() => {}, 1000)'];
  expect(() => commandOutput('KEY', [process.execPath, ...hang], undefined, process.env, 200)).toThrow(
    'did not end within 0.2s',
  );
});

test.each([
  ['{ command: [] }', 'key-missing: The command of the secret "VAULT_KEY" is empty'],
  ['{ command: read-secret }', 'wrong-type'],
  ['{ comand: [read-secret] }', 'unknown-key'],
  ['{ command: [read-secret], for: [harbor] }', 'Its APIs are a.'],
])('%s is refused', async (declared, message) => {
  const folder = projectWith(CHAIN);
  folder.write('batharon.yaml', `${folder.read('batharon.yaml').trimEnd()}\nsecrets: { VAULT_KEY: ${declared} }\n`);
  const { status, all } = await folder.run(['check']);
  expect([status, all]).toEqual([2, expect.stringContaining(message)]);
});
