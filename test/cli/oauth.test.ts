import { generateKeyPairSync } from 'node:crypto';
import { describeWith, openBrowser } from '../support/needs.ts';
import type { Browser } from 'playwright-core';
import { useAuthorizationServer } from '../support/authorization-server.ts';
import { inTerminal, useFolders, type Folder } from '../support/program.ts';

const server = useAuthorizationServer();
const shortLived = useAuthorizationServer(1);
const folderWith = useFolders();

const SECRET = (client: string) => `${client}-"pass%word"+secret`;
/** RFC 6749 section 2.3.1. */
const encoded = (client: string) => `${client}:${encodeURIComponent(SECRET(client))}`;

function project(url: string, auth: string): string {
  return `apis:\n  yard:\n    url: ${url}/api\n    auth:\n      oauth2:\n        token-url: ${url}/token\n${auth.replace(/^/gm, '        ')}\n`;
}

const CALLS = (...targets: readonly string[]) =>
  `api: yard\nsteps:\n${targets.map((target, i) => `  - call: c${i}\n    request: GET ${target}\n`).join('')}`;

function folderFor(url: string, auth: string, chain: string, secrets: string): Folder {
  return folderWith({ 'batharon.yaml': project(url, auth), 'chains/c.chain.yaml': chain, 'secrets.env': secrets });
}

const CLIENT = `client-secret: "{secret.CLIENT_SECRET}"\ngrant: client-credentials\nscope: berths`;

test.each([
  ['basic', `client-id: desk-basic\n${CLIENT}`, 'desk-basic'],
  ['post', `client-id: desk-post\nclient-auth: post\n${CLIENT}`, 'desk-post'],
  [
    'a key',
    'client-id: desk-jwt\nclient-auth: private-key-jwt\nkey: "{secret.KEY}"\nkey-id: desk-key\ngrant: client-credentials',
    'desk-jwt',
  ],
])('client credentials by %s: one token for all calls, and no trace of it', async (_name, auth, client) => {
  const before = await server().counts();
  const secrets = `CLIENT_SECRET='${SECRET(client)}'\nKEY="${server().privateKey.trim().replaceAll('\n', '\\n')}"\n`;
  const folder = folderFor(server().url, auth, CALLS('/a', '/b', '/c'), secrets);
  const { status, all } = await folder.run(['run', 'chains/c.chain.yaml']);
  expect(all).toContain('passed   3 calls, 3 expectations; 4 requests');
  expect(status).toBe(0);
  const after = await server().counts();
  expect([after.token - before.token, after.api - before.api]).toEqual([1, 3]);
  const left = folder.all().filter(([name]) => name !== 'secrets.env');
  const sent = folder.journals()[0]!.find(({ type }) => type === 'sent') as { request: { body: { text: string } } };
  expect(sent.request.body.text).toMatch(/grant_type=client_credentials/);
  for (const [, text] of left) expect(text).not.toMatch(/pass%word|pass%25word|eyJ[A-Za-z0-9]|Bearer [A-Za-z0-9]/);
});

test('a token is renewed shortly before it ends, and once after a 401', async () => {
  const folder = folderFor(
    server().url,
    `client-id: desk-basic\n${CLIENT}`,
    CALLS('/a', '/cancel', '/b', '/c'),
    `CLIENT_SECRET='${SECRET('desk-basic')}'\n`,
  );
  const before = await server().counts();
  expect((await folder.run(['run', 'chains/c.chain.yaml'])).status).toBe(0);
  const after = await server().counts();
  expect([after.token - before.token, after.refused - before.refused]).toEqual([2, 1]);

  const soon = folderFor(
    shortLived().url,
    `client-id: desk-basic\n${CLIENT}`,
    `api: yard\nsteps:\n  - call: a\n    request: GET /a\n  - wait: 1s\n  - call: b\n    request: GET /b\n`,
    `CLIENT_SECRET='${SECRET('desk-basic')}'\n`,
  );
  expect((await soon.run(['run', 'chains/c.chain.yaml'])).status).toBe(0);
  // On a slow machine a third one is due.
  const { token, refused } = await shortLived().counts();
  expect([token >= 2, refused]).toEqual([true, 0]);
});

test('a token that is refused is told with the words of the server', async () => {
  const folder = folderFor(
    server().url,
    `client-id: desk-basic\n${CLIENT}`,
    CALLS('/a'),
    'CLIENT_SECRET=wrong-secret\n',
  );
  const run = await folder.run(['run', 'chains/c.chain.yaml']);
  expect(run.status).toBe(1);
  expect(run.all).toMatch(/not-authorized: The token endpoint answered with 401\s+invalid_client/);
  const alone = await folder.run(['sign-in', 'yard']);
  expect(alone.status).toBe(1);
  expect(alone.all).toContain('Check the client id and its secret.');
});

/** A project whose chain sends one call, signed in to by a grant for somebody else. */
function forOthers(auth: string, secrets: string): Folder {
  const client = 'client-id: desk-for-others\nclient-secret: "{secret.CLIENT_SECRET}"\nscope: berths\n';
  const secret = `CLIENT_SECRET='${SECRET('desk-for-others')}'\n${secrets}`;
  return folderFor(
    server().url,
    client + auth,
    `${CALLS('/a')}    keep: { scope: $.scope }\noutputs: [scope]\n`,
    secret,
  );
}

const keyLine = (key: string) => `KEY="${key.trim().replaceAll('\n', '\\n')}"\n`;

test('jwt-bearer: a signed assertion of who asks, made from claims', async () => {
  const auth = 'grant: jwt-bearer\nkey: "{secret.KEY}"\nkey-id: desk-key\nclaims: { sub: mole }';
  const folder = forOthers(auth, keyLine(server().privateKey));
  const { status, out } = await folder.run(['run', 'chains/c.chain.yaml', '--out', '-']);
  expect([status, JSON.parse(out)]).toEqual([0, { scope: 'mole desk-key' }]);
  for (const [name, text] of folder.all()) if (name !== 'secrets.env') expect(text).not.toMatch(/eyJ[A-Za-z0-9]/);

  const late = forOthers(`${auth.slice(0, -2)}, exp: 1779494400 }`, keyLine(server().privateKey));
  const refused = await late.run(['run', 'chains/c.chain.yaml']);
  expect([refused.status, refused.all]).toEqual([1, expect.stringMatching(/400\s+invalid_grant: "exp"/)]);

  const { privateKey } = generateKeyPairSync('ec', { namedCurve: 'P-256' });
  const other = forOthers(auth, keyLine(String(privateKey.export({ type: 'pkcs8', format: 'pem' }))));
  expect((await other.run(['run', 'chains/c.chain.yaml'])).all).toMatch(/400\s+invalid_grant: signature/);
  const none = forOthers(auth, 'KEY=nonsense-of-a-key\n');
  const { all } = await none.run(['run', 'chains/c.chain.yaml']);
  expect(all).toMatch(/key-not-readable: The key cannot be read as a private key/);
});

test('token-exchange: a token that one has for another', async () => {
  const asked = await fetch(`${server().url}/token`, {
    method: 'POST',
    headers: { Authorization: `Basic ${btoa(encoded('desk-basic'))}` },
    body: new URLSearchParams({ grant_type: 'client_credentials', scope: 'tides' }),
  });
  const { access_token: subject } = (await asked.json()) as { access_token: string };
  const auth = 'grant: token-exchange\nsubject-token: "{secret.SUBJECT}"\nparameters: { audience: harbour }';
  const folder = forOthers(auth, `SUBJECT=${subject}\n`);
  const { status, out } = await folder.run(['run', 'chains/c.chain.yaml', '--out', '-']);
  expect([status, JSON.parse(out)]).toEqual([0, { scope: 'berths' }]);
  for (const [name, text] of folder.all()) if (name !== 'secrets.env') expect(text).not.toContain(subject);

  const unknown = await forOthers(auth, 'SUBJECT=of-nobody-at-all\n').run(['run', 'chains/c.chain.yaml']);
  expect(unknown.all).toMatch(/400\s+invalid_request: the subject token is\s+not known/);
});

test.each([
  ['grant: jwt-bearer', 'assertion or claims'],
  ['grant: jwt-bearer\nclaims: { sub: mole }', 'key for the grant'],
  ['grant: token-exchange', 'subject-token'],
])('what a grant lacks: %s', async (auth, lacking) => {
  const { status, all } = await forOthers(auth, '').run(['check']);
  expect([status, all]).toEqual([2, expect.stringContaining(lacking)]);
});

test('sign-in explains a token without showing it', async () => {
  const folder = folderFor(
    server().url,
    `client-id: desk-basic\n${CLIENT}`,
    CALLS('/a'),
    `CLIENT_SECRET='${SECRET('desk-basic')}'\n`,
  );
  const { out, status } = await folder.run(['sign-in', 'yard']);
  expect(status).toBe(0);
  expect(out).toMatch(/POST .*\/token {3}200 OK/);
  expect(out).toMatch(/scope +berths/);
  expect(out).toMatch(/valid for +60 min, until/);
  expect(out).toContain('the clocks agree');
});

describeWith(['chromium', 'script'], 'a person signs in', () => {
  let browser: Browser;
  beforeAll(async () => {
    browser = await openBrowser();
  });
  afterAll(() => browser.close());

  /** Signs in as somebody and agrees to what is asked; gives the words of the last page. */
  async function signIn(address: string): Promise<string> {
    const page = await browser.newPage();
    await page.goto(address);
    for (let i = 0; i < 4; i++) {
      const login = page.locator('input[name=login]');
      if ((await login.count()) > 0) {
        await login.fill('pilot');
        await page.fill('input[name=password]', 'fog-horn');
      }
      const submit = page.locator('button[type=submit]');
      if ((await submit.count()) === 0) break;
      await Promise.all([page.waitForLoadState('load'), submit.first().click()]);
      await page.waitForTimeout(100);
    }
    const words = await page.locator('body').innerText();
    await page.close();
    return words;
  }

  const PERSON = (grant: string, more: string) =>
    `grant: ${grant}\nclient-id: ${grant === 'device' ? 'mast' : 'pilot'}\nscope: openid offline_access berths\n${more}\nparameters: { prompt: consent }`;

  test('in the browser with PKCE; the refresh token it gives is kept and rotated, and no terminal is needed then', async () => {
    const folder = folderFor(
      server().url,
      PERSON('authorization-code', `authorize-url: ${server().url}/auth`),
      CALLS('/a'),
      '',
    );
    const alone = await folder.run(['run', 'chains/c.chain.yaml']);
    expect(alone.status).toBe(2);
    expect(alone.all).toContain('sign-in-needed');
    const screen = await inTerminal(folder, ['sign-in', 'yard'], [], async (shown) => {
      const address = /http:\/\/127\.0\.0\.1:\d+\/auth\?\S+/.exec(shown)?.[0];
      return address === undefined ? undefined : signIn(address.replace(/\r/g, ''));
    });
    expect(screen).toContain('signed in');
    const tokens = () =>
      folder
        .all()
        .filter(([name]) => name.startsWith('.batharon/tokens/'))
        .map(([, text]) => text);
    const [first] = tokens();
    expect(first).toContain('refresh_token');
    // From now on nobody is asked: each run spends the kept refresh token and keeps the one that takes its place.
    expect((await folder.run(['run', 'chains/c.chain.yaml'])).status).toBe(0);
    const [second] = tokens();
    expect(second).toContain('refresh_token');
    expect(second).not.toBe(first);
    expect((await folder.run(['run', 'chains/c.chain.yaml', '--no-prompt'])).status).toBe(0);
    const kept = (JSON.parse(second!) as { refresh_token: string }).refresh_token;
    const others = folder.all().filter(([name]) => !name.startsWith('.batharon/tokens/'));
    for (const [, text] of others) expect(text).not.toContain(kept);
  });

  test('with a code on another device', async () => {
    const folder = folderFor(
      server().url,
      PERSON('device', `device-url: ${server().url}/device/auth`),
      CALLS('/a'),
      '',
    );
    const screen = await inTerminal(folder, ['run', 'chains/c.chain.yaml'], [], async (shown) => {
      return signIn(/Open (\S+) and enter the code \S+/.exec(shown)![1]!);
    });
    expect(screen).toContain('passed   1 call');
  });

  test('the loopback address answers nobody but the browser that was sent there', async () => {
    const folder = folderFor(
      server().url,
      PERSON('authorization-code', `authorize-url: ${server().url}/auth`),
      CALLS('/a'),
      '',
    );
    const answers: number[] = [];
    const screen = await inTerminal(folder, ['sign-in', 'yard'], [], async (shown) => {
      const address = /http:\/\/127\.0\.0\.1:\d+\/auth\?\S+/.exec(shown)?.[0];
      if (address === undefined) return undefined;
      const back = new URL(address.replace(/\r/g, '')).searchParams;
      const listener = back.get('redirect_uri')!;
      const tries = [`${listener}?code=stolen&state=wrong`, `${listener}other?state=${back.get('state')}`];
      for (const each of tries) answers.push((await fetch(each)).status);
      answers.push((await fetch(`${listener}?state=${back.get('state')}`, { method: 'POST' })).status);
      const refusal = `${listener}?error=access_denied&error_description=No%20entry&state=${back.get('state')}`;
      const page = await fetch(refusal);
      answers.push(page.status);
      expect(page.headers.get('content-security-policy')).toBe("default-src 'none'");
      return 'done';
    });
    expect(answers).toEqual([404, 404, 404, 200]);
    expect(screen).toMatch(/not-authorized: The sign-in was refused: access_denied \(No entry\)/);
  });
});
