import { existsSync } from 'node:fs';
import path from 'node:path';
import { LOCAL_FILE, PROJECT_FILE, SECRETS_FILE } from '../adapters/project-files.ts';
import type { NewApi } from '../core/draft/draft.ts';
import type { FoundSecret } from '../core/draft/secret-book.ts';
import { fileSchema } from '../core/reference/schemas.ts';
import type { Io } from './io.ts';

type NewProject = Readonly<{
  apis: readonly NewApi[];
  secrets: readonly FoundSecret[];
  /** Name of the chain's file, and the chain without the line for editors; nothing where it is written elsewhere. */
  chain: Readonly<{ name: string; text: string }> | undefined;
}>;

/** The comment by which editors with a YAML language server find the schema of a file. */
export const editorLine = (schema: string): string => `# yaml-language-server: $schema=${schema}\n`;

/** Writes the files of a project, those that are not there yet, and says which. */
export function writeProject(dir: string, { apis, secrets, chain }: NewProject, io: Io): void {
  const schema = (kind: 'project' | 'chain') => `${JSON.stringify(fileSchema(kind), null, 2)}\n`;
  const files: readonly (readonly [name: string, text: string, mode: number])[] = [
    [PROJECT_FILE, `${editorLine('schemas/project.schema.json')}apis:\n${apis.map(apiText).join('')}`, 0o644],
    ...(chain
      ? ([
          [`chains/${chain.name}.chain.yaml`, `${editorLine('../schemas/chain.schema.json')}${chain.text}`, 0o644],
        ] as const)
      : []),
    ['schemas/project.schema.json', schema('project'), 0o644],
    ['schemas/chain.schema.json', schema('chain'), 0o644],
    ['.gitignore', `${SECRETS_FILE}\n${LOCAL_FILE}\n.batharon/\n`, 0o644],
    [SECRETS_FILE, secrets.map(({ name, value }) => `${name}=${dotenvValue(value ?? '')}\n`).join(''), 0o600],
  ];
  for (const [name, text, mode] of files) {
    const file = path.join(io.cwd, dir, name);
    if (existsSync(file)) continue;
    if (name === SECRETS_FILE) io.exit.writeSecrets(file, text);
    else io.exit.writeFile(file, text, mode);
    io.exit.out(`created  ${path.join(dir, name)}\n`);
  }
}

function apiText({ name, lines }: NewApi): string {
  return [`  ${name}:`, ...lines.map((line) => `    ${line}`)].map((line) => `${line}\n`).join('');
}

/** A value as dotenv reads it back. */
export function dotenvValue(value: string): string {
  if (/^[A-Za-z0-9_.:/+=-]*$/.test(value)) return value;
  const quote = ["'", '"', '`'].find((each) => !value.includes(each)) ?? "'";
  return quote + value + quote;
}
