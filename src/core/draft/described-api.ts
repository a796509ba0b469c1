import type { Description, Server } from '../contract/description.ts';
import { inputName } from '../template/documentation.ts';
import { yamlScalar } from '../yaml/quoting.ts';
import { FreeNames, type NewApi } from './draft.ts';
import { authOf } from './write-call.ts';

/** Why no draft can be made. */
export type Refused = Readonly<{ message: string; advice: string }>;

/** A new API of a description: its servers are deployments, their variables settings. */
export function newApi(
  description: Description,
  name: string,
  schemes: readonly string[],
  { file, url }: Readonly<{ file: string; url: string | undefined }>,
): NewApi | Refused {
  const servers = url === undefined ? description.servers.filter((each) => /^https?:\/\//.test(each.url)) : [];
  if (url === undefined && servers.length === 0) {
    const message = 'The description names no server with a whole URL';
    return { message, advice: 'Say where the API is: --url https://...' };
  }
  const contract = `contract: ${yamlScalar(file)}`;
  const auth = authOf(schemes);
  if (servers.length <= 1) {
    const at = servers[0] ?? { url: url!, about: undefined, variables: [] };
    return { name, url: at.url, lines: [...serverLines(at), contract, ...auth] };
  }
  const names = new FreeNames(new Set());
  const deployments = servers.map((server) => ({ server, deployment: names.free(deploymentName(server)) }));
  return {
    name,
    url: servers[0]!.url,
    lines: [
      contract,
      'deployments:',
      ...deployments.flatMap(({ server, deployment }) => [
        `  ${deployment}:`,
        ...[...serverLines(server), ...auth].map((line) => `    ${line}`),
      ]),
      `default-deployment: ${deployments[0]!.deployment}`,
    ],
  };
}

function serverLines({ url, variables }: Server): readonly string[] {
  const plain = url.replace(/\/$/, '');
  const names = new Set(variables.map(({ name }) => name));
  const written = plain.replace(/\{([^}]+)\}/g, (whole, name: string) =>
    names.has(name) ? `{setting.${inputName(name)}}` : whole,
  );
  const settings = variables.map(({ name, default: value }) => `${inputName(name)}: ${yamlScalar(value, true)}`);
  return [
    `url: ${written === plain ? plain : JSON.stringify(written)}`,
    ...(settings.length === 0 ? [] : [`settings: { ${settings.join(', ')} }`]),
  ];
}

/** Short words of what a server is called, else its host. */
function deploymentName({ url, about }: Server): string {
  const words =
    about
      ?.toLowerCase()
      .match(/[a-z][a-z0-9]*/g)
      ?.slice(0, 2) ?? [];
  const plain = words.filter((word) => !['the', 'a', 'server', 'environment', 'api', 'of'].includes(word));
  const host = /^[a-z]+:\/\/([^/:]+)/i.exec(url)?.[1] ?? 'server';
  return plain.length > 0 ? plain.join('-') : host.replace(/[^A-Za-z0-9]+/g, '-').replace(/^(?=\d)/, 'at-');
}
