// Paths on a document of 10 MB, against the general JSONPath libraries, on the same queries with the same results.
import { JSONPathEnvironment } from 'json-p3';
import { JSONPath } from 'jsonpath-plus';
import { loadCore } from './core.mjs';
import { median, ms, note } from './measure.mjs';

/** RFC 9535 for ours and json-p3; the third spelling is that of jsonpath-plus, where the query can be said there. */
const QUERIES = [
  ['$.arrivals[*].vessel.id', '$.arrivals[*].vessel.id'],
  ['$..id', '$..id'],
  ["$.arrivals[?@.state == 'moored'].vessel.name", "$.arrivals[?(@.state == 'moored')].vessel.name"],
  ["$.arrivals[?@.draught > 7 && @.state == 'left'].berth", "$.arrivals[?(@.draught > 7 && @.state == 'left')].berth"],
  ['$.arrivals[100:2000:3]', '$.arrivals[100:2000:3]'],
  ['$.arrivals[*].cargo[?@.tonnes >= 40].what', '$.arrivals[*].cargo[?(@.tonnes >= 40)].what'],
];

export async function measurePaths() {
  const { parsePath, compile, frameOf } = await loadCore();
  const document = bigDocument();
  const p3 = new JSONPathEnvironment();
  for (const [query, plusQuery] of QUERIES) {
    const evaluate = compile(parsePath(query).tree);
    const runs = [
      () => evaluate(frameOf(document, () => undefined)),
      () => p3.query(query, document).values(),
      () => JSONPath({ path: plusQuery, json: document, eval: 'native' }),
    ];
    const counts = runs.map((run) => run().length);
    if (new Set(counts).size > 1) throw new Error(`${query} finds ${counts.join(', ')}`);
    const [ours, json3, plus] = medians(runs);
    const best = Math.min(json3, plus);
    note(query, ours / best, 1, `${ms(ours)}, two packages ${ms(json3)} and ${ms(plus)}; ${counts[0]} found`);
  }
}

function medians(runs) {
  const times = runs.map(() => []);
  for (let round = 0; round < 9; round++) {
    runs.forEach((run, k) => {
      const started = performance.now();
      run();
      times[k].push(performance.now() - started);
    });
  }
  return times.map(median);
}

function bigDocument() {
  const arrivals = Array.from({ length: 26_000 }, (_, i) => ({
    id: `A-${i}`,
    state: ['expected', 'moored', 'left'][i % 3],
    draught: 2 + (i % 80) / 10,
    berth: i % 4 === 0 ? null : `N${i % 9}`,
    vessel: { id: `KM ${i}/4`, name: `Vessel ${i}`, flag: ['NO', 'PT', 'DK'][i % 3], master: 'I. Haldorsen' },
    cargo: Array.from({ length: 4 }, (_unused, k) => ({
      what: ['salt', 'timber', 'stockfish', 'grain'][k],
      tonnes: (i + k * 13) % 60,
    })),
  }));
  return JSON.parse(JSON.stringify({ port: 'Kvitnes', arrivals }));
}
