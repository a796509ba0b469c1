import { cpSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { NOTICE_KEY } from '../../src/harbour/vessels.ts';
import { OFFICE } from '../../src/harbour/office.ts';
import { useFolders, type Folder } from './program.ts';
import { openHarbour, type Harbour } from '../../src/harbour/server.ts';

export const TOKEN = 'kvitnes-test-token-9d1';
export const KEY = 'outer-mole-test-key-4c7';

/** The real harbour, open while the tests of a file run. */
export function useHarbour(): () => Harbour {
  let harbour: Harbour;
  beforeAll(async () => {
    harbour = await openHarbour({ token: TOKEN, key: KEY });
  });
  afterAll(() => harbour.close());
  return () => harbour;
}

/** A project file for a harbour, its deployments and its second api. */
export function projectFile({ url }: Harbour): string {
  return `
apis:
  harbour:
    headers: { Accept: application/json }
    deployments:
      sandbox:
        url: ${url}/v1
        auth: { bearer: "{secret.HARBOUR_TOKEN}" }
        settings: { quay: N }
      live:
        url: ${url}/nowhere
        auth: { bearer: "{secret.HARBOUR_TOKEN}" }
        settings: { quay: S }
    default-deployment: sandbox
  watch:
    url: ${url}/watch
    auth: { api-key: { header: Harbour-Key, value: "{secret.HARBOUR_KEY}" } }
`;
}

export const SECRETS = `HARBOUR_TOKEN=${TOKEN}\nHARBOUR_KEY=${KEY}\nOFFICE_SECRET=${OFFICE.secret}\nGATE_PASSWORD=${OFFICE.password}\nNOTICE_KEY=${NOTICE_KEY}\n`;

/** The demo project in a folder, for a harbour that is open. */
export function copyDemoInto(folder: Folder, { url }: Harbour): void {
  const from = path.join(__dirname, '../../demo');
  cpSync(from, folder.path, { recursive: true });
  const project = path.join(folder.path, 'batharon.yaml');
  writeFileSync(project, readFileSync(project, 'utf8').replaceAll('http://127.0.0.1:4090', url));
  folder.write('secrets.env', SECRETS);
}

/** Copies of the demo project, each for the same harbour, which is open while the tests of a file run. */
export function useDemo(): () => Folder {
  const harbour = useHarbour();
  const folderWith = useFolders();
  return () => {
    const folder = folderWith();
    copyDemoInto(folder, harbour());
    return folder;
  };
}
