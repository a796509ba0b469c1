// A filter over many objects, against a loop by hand that does the same.
import { median, note } from './measure.mjs';
import { loadCore } from './core.mjs';

const OBJECTS = 200_000;
const ROUNDS = 15;

export async function measureFilter() {
  const { parseExpression, compile, frameOf } = await loadCore();
  const due = Array.from({ length: OBJECTS }, (_, i) => ({
    id: `A-${i}`,
    state: i % 3 === 0 ? 'expected' : 'moored',
    draught: (i % 90) / 10,
    vessel: { flag: i % 5 === 0 ? 'NO' : 'DK' },
  }));
  const flag = 'NO';
  const cases = [
    ["due[?@.state == 'expected']", (item) => item.state === 'expected'],
    ["due[?@.draught > 6 && @.state == 'expected']", (item) => item.draught > 6 && item.state === 'expected'],
    ['due[?@.vessel.flag == flag]', (item) => item.vessel.flag === flag],
  ];
  for (const [text, test] of cases) {
    const evaluate = compile(parseExpression(text).tree);
    const frame = frameOf(undefined, (name) => (name === 'due' ? due : 'NO'));
    const byHand = () => {
      const found = [];
      for (const item of due) if (test(item)) found.push(item);
      return found;
    };
    const [ours, floor] = [[], []];
    for (let i = 0; i < ROUNDS; i++) {
      for (const [times, run] of [
        [ours, () => evaluate(frame)],
        [floor, byHand],
      ]) {
        const started = performance.now();
        if (run().length === 0) throw new Error('Nothing was found');
        times.push(performance.now() - started);
      }
    }
    if (evaluate(frame).length !== byHand().length) throw new Error(`${text} finds other items`);
    note(text, median(ours) / median(floor), 2, `${median(ours).toFixed(1)} ms and ${median(floor).toFixed(1)} ms`);
  }
}
