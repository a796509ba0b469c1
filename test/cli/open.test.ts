import { chmodSync, readFileSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import path from 'node:path';
import { pageForm, quietPage } from '../../src/core/value/quiet-page.ts';
import { openBrowser, testWith } from '../support/needs.ts';
import { useFolders, type Folder } from '../support/program.ts';

const folderWith = useFolders();

const PNG = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  'base64',
);
const HOSTILE_SVG = (url: string) =>
  `<?xml version="1.0"?><!-- x --><svg xmlns="http://www.w3.org/2000/svg" width="80" height="60" onload="fetch('${url}/onload')"><script>fetch('${url}/script')</script><image href="${url}/image.png" width="9" height="9"/><style>@import url(${url}/style.css);</style><foreignObject><iframe xmlns="http://www.w3.org/1999/xhtml" src="${url}/frame"></iframe></foreignObject><rect width="80" height="60" fill="green"/></svg>`;
const HOSTILE_HTML = (url: string) =>
  `<!doctype html><html><head><meta http-equiv="refresh" content="0;url=${url}/refresh"><base href="${url}/"><link rel="stylesheet" href="${url}/a.css"><link rel="preconnect" href="${url}"><script src="${url}/a.js"></script><script>fetch('${url}/fetch');top.location='${url}/top'</script></head><body onload="fetch('${url}/onload')"><h1>Pier</h1><img src="${url}/a.png" onerror="fetch('${url}/onerror')"><iframe src="${url}/frame"></iframe><object data="${url}/object"></object><video src="${url}/a.mp4" autoplay></video><form action="${url}/form" id="f"><button autofocus>x</button></form>"><script>document.forms[0].submit()</script></body></html>`;

/** A folder whose last run was answered with some bytes, and in which a program writes down what it is to open. */
async function answered(type: string, body: string | Buffer): Promise<Folder> {
  const server = createServer((_request, response) => response.setHeader('Content-Type', type).end(body));
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
  const folder = folderWith({
    'batharon.yaml': `apis: { pier: { url: "${url}" } }\n`,
    'plan.chain.yaml': 'api: pier\nsteps:\n  - call: plan\n    request: GET /../../evil%00.exe\n',
    'bin/xdg-open': '#!/bin/sh\nprintf %s "$1" > "$OPENED"\n',
  });
  chmodSync(path.join(folder.path, 'bin/xdg-open'), 0o755);
  await folder.run(['run', 'plan.chain.yaml']);
  server.close();
  return folder;
}

async function look(folder: Folder) {
  const file = path.join(folder.path, 'opened');
  const env = { PATH: `${folder.path}/bin:${process.env['PATH']}`, OPENED: file };
  const result = await folder.run(['look', 'plan', '--open'], { env });
  for (let i = 0; i < 100 && result.status === 0 && !folder.has('opened'); i++)
    await new Promise((resolve) => setTimeout(resolve, 20));
  return { ...result, opened: folder.has('opened') ? folder.read('opened') : undefined };
}

test('a picture is opened under a name of our own, by what it is and not by what the server says', async () => {
  const folder = await answered('text/html', PNG);
  const { err, status, opened } = await look(folder);
  expect([err.split('\n')[0], status]).toEqual([
    expect.stringMatching(/^opening PNG image, 1 x 1 pixels, 70 B, as text\/html, the response of plan in run /),
    0,
  ]);
  expect(path.basename(opened!)).toBe('response.png');
  expect(readFileSync(opened!)).toEqual(PNG);
});

test.each([
  ['application/pdf', '#!/bin/sh\nrm -rf /\n', 'is text, which is not opened'],
  ['image/png', Buffer.from('MZ\x90\0\x03\0\0\0', 'latin1'), 'of a form that is not known here'],
  ['image/png', Buffer.from('PK\x03\x04\xff\xfe', 'latin1'), 'is ZIP archive, which is not opened'],
  ['application/json', '{"a": 1}', 'is text, which is not opened'],
])('what calls itself %s and is something else is not opened', async (type, body, why) => {
  const { err, status, opened } = await look(await answered(type, body));
  expect([err, status, opened]).toEqual([expect.stringContaining(why), 2, undefined]);
});

test('without a program that opens files the name of the file is shown', async () => {
  const folder = await answered('image/png', PNG);
  const { err, status } = await folder.run(['look', '--open'], { env: { PATH: '/nowhere' } });
  expect([err, status]).toEqual([
    expect.stringMatching(/No program of this system opens it. The file: \S+response\.png/),
    1,
  ]);
});

test.each([
  ['<svg width="1"/>', 'SVG image'],
  ['\ufeff<?xml version="1.0"?>\n<!-- <html> -->\n<!DOCTYPE svg PUBLIC "a">\n<svg>', 'SVG image'],
  ['<!DOCTYPE html><p>', 'HTML page'],
  ['  <html>', 'HTML page'],
  ['<svgx>', undefined],
  ['{"a": "<svg>"}', undefined],
])('%j is %s', (text, form) => {
  expect(pageForm(text)).toBe(form);
});

testWith(
  ['chromium'],
  'hostile drawings and pages run nothing and ask the network for nothing',
  async () => {
    const asked: string[] = [];
    const server = createServer((request, response) => {
      asked.push(request.url ?? '');
      response.end();
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
    const browser = await openBrowser();
    try {
      for (const [type, text] of [
        ['image/svg+xml', HOSTILE_SVG(url)],
        ['text/html', HOSTILE_HTML(url)],
        ['text/html', `<html>"></iframe><script>fetch('${url}/broken-out')</script>`],
      ] as const) {
        const folder = await answered(type, text);
        const { opened } = await look(folder);
        const page = await browser.newPage();
        let dialogs = 0;
        page.on('dialog', () => dialogs++);
        await page.goto(`file://${opened}`);
        // A page that leads elsewhere at once would have been left by then.
        await page.waitForTimeout(400);
        expect([page.url(), dialogs]).toEqual([`file://${opened}`, 0]);
        if (type === 'image/svg+xml')
          expect(await page.locator('img').evaluate((img: HTMLImageElement) => img.naturalWidth)).toBe(80);
        else if (text.includes('Pier'))
          expect(await page.frameLocator('iframe').first().locator('h1').innerText()).toBe('Pier');
        await page.close();
      }
      expect(asked).toEqual([]);
      // As it was sent, the page does ask.
      const raw = folderWith({ 'raw.html': HOSTILE_HTML(url) });
      await (await browser.newPage()).goto(`file://${path.join(raw.path, 'raw.html')}`, { waitUntil: 'commit' });
      for (let i = 0; i < 100 && asked.length === 0; i++) await new Promise((resolve) => setTimeout(resolve, 20));
      expect(asked).not.toEqual([]);
    } finally {
      await browser.close();
      server.close();
    }
  },
  60_000,
);

test('a title cannot leave its place', () => {
  expect(quietPage('HTML page', '', '"><script>')).not.toContain('<script>');
});
