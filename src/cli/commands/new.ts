import type { Command } from 'commander';
import { existsSync } from 'node:fs';
import path from 'node:path';
import { PROJECT_FILE, SECRETS_FILE } from '../../adapters/project-files.ts';
import { isName } from '../../core/path/scanner.ts';
import type { ExitStatus, Io } from '../io.ts';
import { writeProject } from '../new-project.ts';
import { CommandError } from '../../runner/command-error.ts';
import { examples, type CommandModule } from './definition.ts';

type Options = Readonly<{ api: string; url: string }>;

/** `new [DIR]`: a project with one api and one chain, for an editor to complete. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .argument('[dir]', 'folder, created if it does not exist', '.')
      .option('--api <name>', 'name for the API', 'harbour')
      .option('--url <url>', 'base URL of the API', 'http://127.0.0.1:4090/v1')
      .action((dir: string, options: Options) => run((io) => Promise.resolve(execute(dir, options, io))));
    examples(sub, 'batharon new', 'batharon new port --api harbour --url https://harbour.example/v1');
  },
};

function execute(dir: string, { api, url }: Options, io: Io): ExitStatus {
  if (existsSync(path.join(io.cwd, dir, PROJECT_FILE))) {
    const advice = 'Choose another folder: batharon new DIR';
    throw new CommandError('not-writable', `${path.join(dir, PROJECT_FILE)} exists already`, advice);
  }
  if (!isName(api))
    throw new CommandError(
      'invalid-name',
      `"${api}" is not a valid name for an API`,
      'A name consists of letters, digits and _.',
    );
  if (!/^https?:\/\/[^/?#\s]+[^?#\s]*$/.test(url) || !URL.canParse(url)) {
    const advice = 'Example: --url https://harbour.example/v1, without a query.';
    throw new CommandError('invalid-target', `"${url}" is not a URL of an API`, advice);
  }
  const token = `${api.toUpperCase()}_TOKEN`;
  const text = `about: The first call; replace the path by one of the API's.
api: ${api}

steps:
  - call: first
    request: GET /
    expect:
      - status == 200
`;
  const plain = url.replace(/\/$/, '');
  const lines = [`url: ${plain}`, 'auth:', `  bearer: "{secret.${token}}"`, 'headers:', '  Accept: application/json'];
  const chain = { name: 'first', text };
  const apis = [{ name: api, url: plain, lines }];
  writeProject(dir, { apis, secrets: [{ name: token, value: '' }], chain }, io);
  const into = dir === '.' ? '' : `\n  cd ${dir}`;
  io.exit.out(
    `\nPut the token into ${SECRETS_FILE}, then:${into}\n  batharon send GET /\n  batharon run chains/first.chain.yaml\n`,
  );
  return 0;
}
