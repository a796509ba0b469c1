import { AS_WRITTEN, readAt } from '../../runner/deployments.ts';
import { endpointWords } from '../../core/http/endpoint.ts';
import { Argument, type Command } from 'commander';
import { existsSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { findChains, SECRETS_FILE } from '../../adapters/project-files.ts';
import { projectSecrets } from '../../runner/project-secrets.ts';
import type { Project } from '../../core/chain/project-file.ts';
import { secretsAsked, secretsInTexts, textsOfEndpoint } from '../../core/chain/secrets-asked.ts';
import type { ExitStatus, Io } from '../io.ts';
import { declarationOf, declared } from '../declaring.ts';
import { dotenvValue } from '../new-project.ts';
import { CommandError } from '../../runner/command-error.ts';
import { formOption, type Form } from './options.ts';
import { loadChain, openProject, type Workspace } from '../../runner/workspace.ts';
import { paletteOf } from '../view/palette.ts';
import { padded } from '../view/text.ts';
import { examples, several, type CommandModule } from './definition.ts';

type Options = Readonly<{ as: Form; for: readonly string[] }>;

/** `secrets`: the names that the project asks for and where each is found; `secrets set NAME` asks for one and keeps it. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    formOption(sub)
      .addArgument(new Argument('[action]', 'set a secret').choices(['set']))
      .argument('[name]', 'name of the secret')
      .option('--for <api>', 'with set, an API that it belongs to (repeatable)', several, [])
      .action((action: string | undefined, name: string | undefined, options: Options) =>
        run((io) => (action === 'set' ? set(name, options.for, io) : Promise.resolve(list(options.as, io)))),
      );
    examples(
      sub,
      'batharon secrets',
      'batharon secrets set HARBOUR_TOKEN',
      'batharon secrets set WEBHOOK_KEY --for harbour',
      'batharon secrets set HARBOUR_TOKEN < token.txt',
    );
  },
};

/** Each name with who asks for it and where it was found; never a value. */
function list(as: Form, io: Io): ExitStatus {
  const workspace = openProject(io.cwd);
  const store = projectSecrets(workspace, io);
  const asked = askedIn(workspace, io);
  if (as === 'json') {
    const rows = [...asked].map(([name, by]) => ({ name, for: [...by], in: store.placeOf(name) ?? null }));
    io.exit.out(`${JSON.stringify(rows, null, 2)}\n`);
    return rows.some((row) => row.in === null) ? 2 : 0;
  }
  if (asked.size === 0) {
    io.exit.out('The files of this project read no secrets.\n');
    return 0;
  }
  const palette = paletteOf(io.colors);
  const width = Math.max(...[...asked.keys()].map((name) => name.length)) + 2;
  let missing = 0;
  for (const [name, by] of asked) {
    const where = store.placeOf(name);
    if (where === undefined) missing++;
    const state = where === undefined ? palette.bad('missing') : palette.good(`in ${where}`);
    io.exit.out(`${padded(name, width)}${state}   ${palette.quiet(`for ${[...by].join(', ')}`)}\n`);
  }
  if (missing > 0) io.exit.out(`\nTo set one: batharon secrets set NAME\n`);
  return missing > 0 ? 2 : 0;
}

function askedIn(workspace: Workspace, io: Io): ReadonlyMap<string, ReadonlySet<string>> {
  const asked = new Map<string, Set<string>>();
  const note = (name: string, by: string) => asked.set(name, (asked.get(name) ?? new Set()).add(by));
  for (const endpoint of (workspace.project?.apis ?? []).flatMap(({ endpoints }) => endpoints)) {
    const by = endpointWords(endpoint);
    for (const name of secretsInTexts(textsOfEndpoint(endpoint))) note(name, by);
  }
  for (const [name, by] of namedInProject(workspace.project)) note(name, by);
  const at = readAt(AS_WRITTEN, io.environment, workspace.project);
  for (const file of findChains(workspace.folder)) {
    const { chain } = loadChain(workspace, file, at);
    for (const { name } of chain ? secretsAsked([chain], []) : []) note(name, path.relative(io.cwd, file));
  }
  return asked;
}

/** The secrets that a project declares for its APIs, and those of its Redis. */
function namedInProject(project: Project | undefined): readonly (readonly [name: string, by: string])[] {
  const { secrets = [], redis } = project ?? {};
  return [
    ...secrets.flatMap(({ name, apis }) => apis.map(({ text }) => [name, text] as const)),
    ...secretsInTexts(redis ? [redis] : []).map((name) => [name, 'redis'] as const),
  ];
}

/** Asks without echo, or reads standard input, and writes the value into `secrets.env`; other lines stay as they are. */
async function set(name: string | undefined, apis: readonly string[], io: Io): Promise<ExitStatus> {
  if (name === undefined || !/^[A-Za-z_][A-Za-z0-9_]*$/.test(name)) {
    throw new CommandError(
      'invalid-option',
      'The name of a secret consists of letters, digits and _',
      'Example: batharon secrets set HARBOUR_TOKEN',
    );
  }
  const workspace = openProject(io.cwd);
  const declaration = declarationOf(name, apis, workspace, io);
  const value = await valueOf(name, io);
  if (value === '') throw new CommandError('not-a-secret', `The value of ${name} is empty`);
  const file = path.join(workspace.folder, SECRETS_FILE);
  const before = existsSync(file) ? readFileSync(file, 'utf8') : '';
  const line = `${name}=${dotenvValue(value)}`;
  const known = new RegExp(`^(?:export\\s+)?${name}\\s*=.*$`, 'm');
  const after = known.test(before)
    ? before.replace(known, () => line)
    : `${before.replace(/([^\n])$/, '$1\n')}${line}\n`;
  io.exit.writeSecrets(file, after);
  io.exit.out(`Saved ${name} to ${path.relative(io.cwd, file)}\n`);
  io.exit.out(declared(declaration, workspace, io));
  return 0;
}

async function valueOf(name: string, io: Io): Promise<string> {
  if (!io.inIsTerminal) return (await io.readInput()).replace(/\r?\n$/, '');
  const { ask } = await import('../../adapters/prompts.ts');
  const problem = (answer: string) => (answer === '' ? 'The value is empty' : undefined);
  return ask({ message: name, choices: undefined, secret: true, problem }, io.exit);
}
