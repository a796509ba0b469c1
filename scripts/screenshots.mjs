// npm run screenshots: pictures of the main commands in a real terminal window, from the demo's data, into
// docs/screenshots/. Installs what it needs from Debian's packages.
import { execFileSync, spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
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

/** What is typed in the editor: a member of what the last run kept, and a name that nobody keeps. */
const IN_THE_EDITOR = `
vim.diagnostic.config({ update_in_insert = true })
vim.opt.completeopt = { 'menuone', 'noinsert' }
vim.cmd('highlight Pmenu ctermbg=238 ctermfg=252 | highlight PmenuSel ctermbg=66 ctermfg=231 | highlight clear SignColumn')
vim.defer_fn(function()
  vim.fn.setline(21, '    request: GET /vessels/{due[0].')
  vim.fn.cursor(21, 99)
  vim.api.nvim_feedkeys(vim.api.nvim_replace_termcodes('A<C-x><C-o>', true, false, true), 'n', false)
end, 4000)
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
  ['run', ['batharon run chains/berth.chain.yaml', 'batharon run chains/too-deep.chain.yaml']],
  ['check', ['batharon check mistakes/mistakes.yaml']],
  ['look', ['batharon look reserve --run last-good']],
  [
    'send',
    [
      'batharon send GET /berths/N1 --api harbour',
      "batharon value '$.depth'",
      "batharon value '$.arival' --call arrivals --run last-good",
    ],
  ],
  ['draw', ['batharon draw chains/clearance.chain.yaml']],
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
    neovim: '/usr/bin/nvim',
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
  await shootEditor(project);
  await shootPages(project);
} finally {
  harbour.kill('SIGINT');
  server.kill();
  await sleep(300);
  rmSync(place, { recursive: true, force: true });
}

/** Neovim with the lines of the guide, while somebody writes: what the last run recorded, and a mistake. */
async function shootEditor(cwd) {
  spawnSync(process.execPath, [program, 'run', 'chains/berth.chain.yaml'], { cwd, stdio: 'ignore' });
  const guide = readFileSync(path.join(root, 'docs/editors.md'), 'utf8');
  writeFileSync(path.join(cwd, 'init.lua'), `${/```lua\n([^]*?)```/.exec(guide)[1]}\n${IN_THE_EDITOR}`);
  const chain = path.join(cwd, 'chains/berth.chain.yaml');
  const text = readFileSync(chain, 'utf8');
  writeFileSync(chain, text.replace('== draught', '== draugth'));
  await shoot('editor', ['nvim --clean -u init.lua chains/berth.chain.yaml'], cwd, 8000);
  writeFileSync(chain, text);
}

/** A report, and the picture of a chain with what a run did, in Chromium. */
async function shootPages(cwd) {
  const run = (...args) => spawnSync(process.execPath, [program, ...args], { cwd, stdio: 'ignore' });
  run('run', 'chains/berth.chain.yaml');
  run('draw', 'chains/berth.chain.yaml', 'picture.html', '--run', 'last');
  run('run', 'chains/clearance.chain.yaml');
  run('report', 'html=report.html');
  const { chromium } = await import('playwright-core');
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu'],
  });
  for (const [name, step] of [
    ['report', undefined],
    ['picture', '#step-4'],
  ]) {
    const page = await browser.newPage({ viewport: { width: 1280, height: step ? 660 : 860 } });
    await page.goto(`file://${path.join(cwd, `${name}.html`)}`);
    if (step) await page.hover(step);
    await page.screenshot({
      path: path.join(target, `${name}.png`),
      clip: step && { x: 0, y: 0, width: 900, height: 660 },
    });
  }
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
