import { Option, type Command } from 'commander';
import { existsSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { draftForms } from '../../core/draft/list.ts';
import { shellQuoted } from '../../core/draft/shell-words.ts';
import { authOf, callLines, stepText } from '../../core/draft/write-call.ts';
import type { DraftRequest } from '../../core/draft/request.ts';
import type { ExitStatus, Io } from '../io.ts';
import { editorLine, writeProject } from '../new-project.ts';
import { apiName, apiOf, baseOf, callName, isInProject, readSample } from '../samples.ts';
import { CommandError } from '../../runner/command-error.ts';
import { openWorkspace } from '../../runner/workspace.ts';
import { examples, type CommandModule } from './definition.ts';

type Options = Readonly<{ from?: string; api?: string; name?: string; into?: string }>;

/** `draft [SAMPLE]`: a chain from a sample of documentation; in an empty folder the project too. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .argument('[sample]', 'sample text, or a file that contains it (default: standard input)')
      .addOption(
        new Option('--from <form>', 'form of the sample, if it is not recognised').choices(
          draftForms.map((form) => form.name),
        ),
      )
      .option('--api <name>', 'name for the API of a new project')
      .option('--name <name>', 'name of the call')
      .option('--into <chain>', 'chain file to write (default: chains/NAME.chain.yaml)')
      .action((sample: string | undefined, options: Options) => run((io) => execute(sample, options, io)));
    examples(
      sub,
      `batharon draft "curl -H 'Authorization: Bearer ...' https://harbour.example/v1/arrivals"`,
      'batharon draft sample.txt',
      'batharon draft < sample.txt',
    );
  },
};

async function execute(sample: string | undefined, options: Options, io: Io): Promise<ExitStatus> {
  const request = await readSample(sample === undefined ? true : textOfSample(sample, io), options.from, io);
  if (!URL.canParse(request.url)) throw new CommandError('invalid-target', `"${request.url}" is not a URL`);
  const name = options.name ?? callName(request);
  const into = options.into ?? `chains/${name}.chain.yaml`;
  return isInProject(io) ? intoProject(request, name, into, io) : newProject(request, name, options, io);
}

/** An argument with a space in it is a sample, any other the name of a file. */
function textOfSample(given: string, io: Io): string {
  if (/\s/.test(given)) return given;
  const file = path.resolve(io.cwd, given);
  if (existsSync(file)) return readFileSync(file, 'utf8');
  throw new CommandError(
    'file-not-found',
    `The file ${given} does not exist`,
    'A sample is put in quotes, as one argument.',
  );
}

/** The chain alone, with the project's own api where the URL is under it. */
function intoProject(request: DraftRequest, name: string, into: string, io: Io): ExitStatus {
  const workspace = openWorkspace(io.cwd);
  const own = apiOf(workspace, request.url);
  // Credentials of an api that the project has are the project's.
  const auth = own ? authOf(request, own.api) : undefined;
  const lines = callLines(request, name, own?.path ?? request.url, auth);
  const file = path.resolve(io.cwd, into);
  if (existsSync(file))
    throw new CommandError('not-writable', `${into} exists already`, 'Choose another file with --into.');
  const head = own ? `api: ${own.api}\n\n` : '';
  const schema = path.join(workspace.folder, 'schemas/chain.schema.json');
  const editor = existsSync(schema)
    ? editorLine(path.relative(path.dirname(file), schema).split(path.sep).join('/'))
    : '';
  io.exit.writeFile(file, `${editor}${head}steps:\n${stepText(lines)}`, 0o644);
  io.exit.out(`Created ${into}\n\nNext:\n  batharon run ${shellQuoted(into)}\n`);
  return 0;
}

function newProject(request: DraftRequest, name: string, { api: given }: Options, io: Io): ExitStatus {
  const url = baseOf(request.url);
  const api = given ?? apiName(request.url);
  const auth = authOf(request, api);
  const lines = callLines(request, name, request.url.slice(url.length) || '/', auth);
  const chain = { name, text: `api: ${api}\n\nsteps:\n${stepText(lines)}` };
  writeProject('.', { api, url, auth: auth?.lines ?? [], secrets: auth?.secrets ?? [], chain }, io);
  io.exit.out(`\nNext:\n  batharon run ${shellQuoted(`chains/${name}.chain.yaml`)}\n`);
  return 0;
}
