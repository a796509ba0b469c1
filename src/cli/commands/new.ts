import type { Command } from 'commander';
import { existsSync } from 'node:fs';
import path from 'node:path';
import { PROJECT_FILE, SECRETS_FILE } from '../../adapters/project-files.ts';
import { fileSchema } from '../../core/reference/schemas.ts';
import { isName } from '../../core/path/scanner.ts';
import type { ExitStatus, Io } from '../io.ts';
import { UsageFault } from '../usage-fault.ts';
import { examples, type CommandModule } from './definition.ts';

type Options = Readonly<{ api: string; url: string }>;

/** `new [DIR]`: a project with one api and one chain, for an editor to complete. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .argument('[dir]', 'the folder, made when it is not there', '.')
      .option('--api <name>', 'what to call the api', 'harbour')
      .option('--url <url>', 'where it runs', 'http://127.0.0.1:4090/v1')
      .action((dir: string, options: Options) => run((io) => Promise.resolve(execute(dir, options, io))));
    examples(sub, 'batharon new', 'batharon new port --api harbour --url https://harbour.example/v1');
  },
};

function execute(dir: string, { api, url }: Options, io: Io): ExitStatus {
  const folder = path.resolve(io.cwd, dir);
  if (existsSync(path.join(folder, PROJECT_FILE))) {
    throw new UsageFault(
      'not-writable',
      `${path.join(dir, PROJECT_FILE)} is there already`,
      'Choose another folder: batharon new DIR',
    );
  }
  if (!isName(api))
    throw new UsageFault('bad-name', `"${api}" cannot be the name of an api`, 'A name has letters, digits and _.');
  if (!/^https?:\/\/[^/?#\s]+[^?#\s]*$/.test(url) || !URL.canParse(url)) {
    throw new UsageFault(
      'bad-target',
      `"${url}" is no URL of an api`,
      'As in --url https://harbour.example/v1, without a query.',
    );
  }
  const token = `${api.toUpperCase()}_TOKEN`;
  const files = projectFiles(api, url.replace(/\/$/, ''), token);
  for (const [name, { text, mode }] of Object.entries(files)) {
    const file = path.join(folder, name);
    if (existsSync(file)) continue;
    io.exit.writeFile(file, text, mode);
    io.exit.out(`made  ${path.join(dir, name)}\n`);
  }
  const into = dir === '.' ? '' : `\n  cd ${dir}`;
  io.exit.out(
    `\nPut the token into ${SECRETS_FILE}, then:${into}\n  batharon send GET /\n  batharon run chains/first.chain.yaml\n`,
  );
  return 0;
}

type NewFile = Readonly<{ text: string; mode: number }>;

/** The comment by which editors with a YAML language server find the schema of a file. */
const editorLine = (schema: string) => `# yaml-language-server: $schema=${schema}\n`;

function projectFiles(api: string, url: string, token: string): Readonly<Record<string, NewFile>> {
  const open = (text: string): NewFile => ({ text, mode: 0o644 });
  const schema = (kind: 'project' | 'chain') => open(`${JSON.stringify(fileSchema(kind), null, 2)}\n`);
  return {
    [PROJECT_FILE]: open(`${editorLine('schemas/project.schema.json')}apis:
  ${api}:
    url: ${url}
    auth:
      bearer: "{secret.${token}}"
    headers:
      Accept: application/json
`),
    'chains/first.chain.yaml':
      open(`${editorLine('../schemas/chain.schema.json')}about: The first call; replace the path by one of the API's.
api: ${api}

steps:
  - call: first
    request: GET /
    expect:
      - status == 200
`),
    'schemas/project.schema.json': schema('project'),
    'schemas/chain.schema.json': schema('chain'),
    '.gitignore': open(`${SECRETS_FILE}\n.batharon/\n`),
    [SECRETS_FILE]: { text: `${token}=\n`, mode: 0o600 },
  };
}
