import { createValidator } from '../../src/core/json-schema-packages.ts';
import { sarifLog } from '../../src/core/report/sarif.ts';
import { allChainProblems } from '../support/chains.ts';
import { chainOf } from '../support/engine.ts';

/** The parts of SARIF 2.1.0 (OASIS, sections 3.13 to 3.57) that are written here, closed: another property is a mistake. */
const closed = (required: readonly string[], properties: Record<string, unknown>) => ({
  type: 'object',
  required,
  properties,
  additionalProperties: false,
});
const message = closed(['text'], { text: { type: 'string', minLength: 1 } });
const position = { type: 'integer', minimum: 1 };
const region = closed(['startLine'], {
  startLine: position,
  startColumn: position,
  endLine: position,
  endColumn: position,
});
const artifact = closed(['uri'], { uri: { type: 'string', format: 'uri-reference' } });
const level = { enum: ['none', 'note', 'warning', 'error'] };
const rule = closed(['id'], {
  id: { type: 'string' },
  shortDescription: message,
  defaultConfiguration: closed([], { level }),
});
const replacement = closed(['deletedRegion'], { deletedRegion: region, insertedContent: message });
const result = closed(['message'], {
  ruleId: { type: 'string' },
  ruleIndex: { type: 'integer', minimum: -1 },
  level,
  message,
  locations: {
    type: 'array',
    items: closed([], { physicalLocation: closed(['artifactLocation'], { artifactLocation: artifact, region }) }),
  },
  fixes: {
    type: 'array',
    items: closed(['artifactChanges'], {
      description: message,
      artifactChanges: {
        type: 'array',
        minItems: 1,
        items: closed(['artifactLocation', 'replacements'], {
          artifactLocation: artifact,
          replacements: { type: 'array', minItems: 1, items: replacement },
        }),
      },
    }),
  },
});
const driver = closed(['name'], {
  name: { type: 'string' },
  version: { type: 'string' },
  rules: { type: 'array', uniqueItems: true, items: rule },
});
const sarif = closed(['version', 'runs'], {
  $schema: { type: 'string', format: 'uri' },
  version: { const: '2.1.0' },
  runs: {
    type: 'array',
    items: closed(['tool'], {
      tool: closed(['driver'], { driver }),
      columnKind: { enum: ['utf16CodeUnits', 'unicodeCodePoints'] },
      results: { type: 'array', items: result },
    }),
  },
});

test('diagnostics are a valid log, with rules, places and fixes', () => {
  const validate = createValidator({ strict: false, allErrors: true }).compile(sarif);
  const found = allChainProblems(
    chainOf('- let: { vessel: 1 }\n- say: "{vesel}"\n- call: a\n  request: GET /a\n  expect:\n    - !exists($.b)'),
  );
  const log = sarifLog(found, { name: 'batharon', version: '1.0.0' }) as {
    runs: { results: { ruleIndex: number; ruleId: string }[]; tool: { driver: { rules: { id: string }[] } } }[];
  };
  validate(log);
  expect(validate.errors ?? []).toEqual([]);
  const [run] = log.runs;
  expect(run!.results.map(({ ruleId }) => ruleId)).toEqual(found.map(({ code }) => code));
  for (const { ruleId, ruleIndex } of run!.results) expect(run!.tool.driver.rules[ruleIndex]!.id).toBe(ruleId);
  expect(log).toMatchObject({
    runs: [
      {
        results: expect.arrayContaining([
          expect.objectContaining({ fixes: [expect.objectContaining({ artifactChanges: expect.anything() })] }),
        ]),
      },
    ],
  });
});

test('no diagnostics are a valid log too', () => {
  expect(createValidator({ strict: false }).compile(sarif)(sarifLog([], { name: 'batharon', version: '1.0.0' }))).toBe(
    true,
  );
});
