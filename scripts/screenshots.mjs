// npm run screenshots: pictures of the main commands in a real terminal window, from the demo's data, into
// docs/screenshots/. Installs what it needs from Debian's packages.
import { execFileSync, spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { fileURLToPath } from 'node:url';
import { installPackages, missingPackages } from './debian.mjs';

const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), '..');
const program = path.join(root, 'dist/batharon.cjs');
const target = process.argv[2] ?? path.join(root, 'docs/screenshots');
const DISPLAY = ':97';
/** Colours that are read well on the dark ground; which colour means what is the program's business. */
const COLORS = ['color1:#ff6b6b', 'color2:#74cd8e', 'color3:#e6c26c', 'color6:#6cc7d9'].flatMap((each) => [
  '-xrm',
  `XTerm*${each}`,
]);

/** Samples as a page of documentation shows them. */
const PILOTS = `curl -H 'X-Pilot-Key: kF83bQ0zL1' 'https://pilots.harbour.example/v2/pilots?on=2026-05-23&grade=2'
curl -X POST https://pilots.harbour.example/v2/pilots/{pilot}/orders \\
  -H 'X-Pilot-Key: kF83bQ0zL1' --json '{"vessel": "KM 204/5", "at": "2026-05-23T06:30:00Z"}'
`;

/**
 * A picture: its name, the commands that are typed before it is taken, and the milliseconds after which it is taken though they
 * are not done.
 */
const shots = [
  [
    'draft',
    [
      'cat pilots.txt',
      'batharon draft pilots.txt --into chains/order-pilot.chain.yaml --api pilots',
      'cat chains/order-pilot.chain.yaml',
    ],
  ],
  ['steps', ['batharon run chains/quay.chain.yaml', 'batharon run chains/quay.chain.yaml --input quay=S']],
  ['run', ['batharon run chains/berth.chain.yaml', 'batharon run chains/too-deep.chain.yaml']],
  ['check', ['batharon check mistakes/mistakes.yaml']],
  ['look', ['batharon look reserve --run last-good']],
  ['send', ['batharon send GET /berths/N1 --api harbour', "batharon value '$.depth'"]],
  [
    'value',
    [
      'batharon value \'$.arrivals[?@.state == "expected"].vessel\' --call arrivals --run last-good --paths',
      "batharon value '$.arival' --call arrivals --run last-good",
    ],
  ],
  ['about', ['batharon about retry.on', 'batharon about needs-quotes', 'batharon about sorted']],
  [
    'find',
    ['batharon find N3 --call berths --run last-good', 'batharon find "North quay" --call berths --run last-good'],
  ],
  [
    'preview',
    ['batharon preview chains/berth.chain.yaml --only reserve', 'batharon look reserve --run last-good --origins'],
  ],
  ['sign-in', ['batharon sign-in office', 'OFFICE_SECRET=wrong-lantern batharon sign-in office']],
  ['loop', ['batharon run chains/arrivals.chain.yaml', 'batharon run chains/new-berth.chain.yaml']],
  // While it runs: some failed, some wait for their next poll.
  ['live', ['batharon run chains/clearance.chain.yaml'], 2600],
  ['waiting', ['batharon run chains/clearance.chain.yaml']],
  [
    'forecast',
    [
      'batharon forecast chains/clearance.chain.yaml --assume due=400',
      'batharon forecast chains/pilots.chain.yaml --input count=900',
    ],
  ],
  ['resume', ['batharon run chains/clearance.chain.yaml --input day=2026-05-25 --to ask-clearance', 'batharon resume']],
  [
    'compare',
    [
      'batharon run chains/clearance.chain.yaml --input day=2026-05-21 --quiet',
      'batharon run chains/clearance.chain.yaml --input day=2026-05-25',
      'batharon compare last-good',
    ],
  ],
  ['contract', ['batharon draft openapi/harbour.yaml --list reserv', 'batharon run chains/pier.chain.yaml']],
];

installPackages(
  missingPackages({
    chromium: '/usr/bin/chromium',
    xvfb: '/usr/bin/Xvfb',
    xterm: '/usr/bin/xterm',
    imagemagick: '/usr/bin/import-im6.q16',
    'fonts-dejavu-core': '/usr/share/fonts/truetype/dejavu/DejaVuSansMono.ttf',
  }),
);
mkdirSync(target, { recursive: true });
const place = mkdtempSync(path.join(tmpdir(), 'batharon-shots-'));
const bin = path.join(place, 'bin');
mkdirSync(bin);
writeFileSync(path.join(bin, 'batharon'), `#!/bin/sh\nexec "${process.execPath}" "${program}" "$@"\n`, { mode: 0o755 });

const server = spawn('Xvfb', [DISPLAY, '-screen', '0', '1280x860x24'], { stdio: 'ignore' });
const harbour = spawn(process.execPath, [program, 'demo', '--serve', '--port', '0'], { cwd: place, stdio: 'ignore' });
try {
  const project = path.join(place, 'harbour');
  while (!existsSync(path.join(project, 'secrets.env'))) await sleep(50);
  await sleep(500);
  writeFileSync(path.join(project, 'pilots.txt'), PILOTS);
  for (const [name, commands, afterMs] of shots) await shoot(name, commands, project, afterMs);
  await shootReport(project);
} finally {
  harbour.kill('SIGINT');
  server.kill();
  await sleep(300);
  rmSync(place, { recursive: true, force: true });
}

/** The page of a report, in Chromium. */
async function shootReport(cwd) {
  const run = (...args) => spawnSync(process.execPath, [program, ...args], { cwd, stdio: 'ignore' });
  run('run', 'chains/clearance.chain.yaml');
  run('report', 'html=report.html');
  const { chromium } = await import('playwright-core');
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu'],
  });
  const page = await browser.newPage({ viewport: { width: 1280, height: 860 } });
  await page.goto(`file://${path.join(cwd, 'report.html')}`);
  await page.screenshot({ path: path.join(target, 'report.png') });
  await browser.close();
}

async function shoot(name, commands, cwd, afterMs = 20_000) {
  const done = path.join(place, `${name}.done`);
  const typed = commands
    .map((command) => `printf '\\033[1;32m$\\033[0m %s\\n' ${quoted(command)}; ${command}; echo`)
    .join('\n');
  const script = path.join(place, `${name}.sh`);
  writeFileSync(script, `clear\n${typed}\ntouch ${done}\nsleep 60\n`);
  const terminal = spawn(
    'xterm',
    [
      '-fa',
      'DejaVu Sans Mono',
      '-fs',
      '10',
      '-geometry',
      '156x49+0+0',
      '-bg',
      '#101418',
      '-fg',
      '#d8dee4',
      '-b',
      '8',
      '-bw',
      '1',
      '-bd',
      '#d4dbe1',
      '+sb',
      ...COLORS,
      '-e',
      'bash',
      script,
    ],
    {
      cwd,
      stdio: 'ignore',
      env: {
        ...process.env,
        DISPLAY,
        PATH: `${bin}:${process.env.PATH}`,
        COLORTERM: '',
        LANG: 'C.UTF-8',
        NO_COLOR: '',
      },
    },
  );
  const started = Date.now();
  while (Date.now() - started < afterMs && !existsSync(done)) await sleep(50);
  if (existsSync(done)) await sleep(400);
  const file = path.join(target, `${name}.png`);
  execFileSync('import', ['-window', 'root', '-display', DISPLAY, '-depth', '8', file]);
  // The window is as large as the longest output needs; what stays empty below is cut off, the width is kept.
  const bottom =
    Number(execFileSync('convert', [file, '-crop', '1250x846+2+2', '-trim', '-format', '%[fx:page.y+h]', 'info:'])) +
    24;
  execFileSync('convert', [
    file,
    '-crop',
    `1264x${Math.min(856, bottom)}+0+0`,
    '+repage',
    '+dither',
    '-colors',
    '96',
    file,
  ]);
  terminal.kill();
  await sleep(200);
  console.log(path.join(path.relative(root, target), `${name}.png`));
}

function quoted(text) {
  return `'${text.replaceAll("'", `'\\''`)}'`;
}
