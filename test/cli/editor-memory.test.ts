import { readFileSync } from 'node:fs';
import { Editor } from '../support/editor.ts';
import { useDemo } from '../support/harbour.ts';

const demo = useDemo();
const BERTH = 'chains/berth.chain.yaml';

/** Edits of which the memory is watched; `npm run soak` makes many more. */
const EDITS = Number(process.env['SOAK'] ?? 0) > 0 ? 10_000 : 240;

/** Megabytes of memory that a process has. */
const megabytesOf = (pid: number) =>
  Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))![1]) / 1024;

(process.platform === 'linux' ? test : test.skip)(
  'very many edits take no more memory than some',
  async () => {
    const folder = demo();
    const editor = new Editor(folder);
    try {
      await editor.start();
      const text = folder.read(BERTH);
      await editor.open(BERTH);
      const places: number[] = [];
      for (let i = 0; i < EDITS; i++) {
        const typed = text.replace('draught: $.draught', `draught_${i}: $.draught`);
        await editor.change(BERTH, [{ text: typed }]);
        await editor.at('completion', BERTH, typed, 'GET /vessels/{due[0].|vessel}');
        if (i % 20 === 0)
          await editor.diagnostics(BERTH, (found) => found.some(({ message }) => message.includes(`draught_${i}`)));
        places.push(megabytesOf(editor.pid));
      }
      const most = (part: readonly number[]) => Math.max(...part);
      const half = EDITS / 2;
      expect(most(places.slice(half)) - most(places.slice(0, half))).toBeLessThan(60);
      expect(await editor.end()).toBe(0);
    } finally {
      editor.kill();
    }
  },
  3_600_000,
);
