import type { Diagnostic, Source, SourceFile } from '../diagnostics/source.ts';
import { readConstant, sourceOfNode } from '../schema/leaves.ts';
import type { Value } from '../value/value.ts';
import { readYaml } from '../yaml/read.ts';
import { collect } from './collect.ts';

type NamedValue = Readonly<{ name: string; value: Value; source: Source }>;

/** Reads a YAML or JSON file that is a mapping from names to values, such as inputs of a run. */
export function readValues(
  file: SourceFile,
): Readonly<{ values: readonly NamedValue[]; diagnostics: readonly Diagnostic[] }> {
  return collect(file, (reading): { values: readonly NamedValue[] } => {
    const node = readYaml(reading);
    if (!node) return { values: [] };
    if (node.kind !== 'map') {
      const message = 'Inputs are a mapping from names to values';
      reading.report({ code: 'wrong-type', range: [0, 1], message, advice: 'Example: day: 2026-05-23.' });
      return { values: [] };
    }
    return {
      values: node.entries.map(({ key, value }) => ({
        name: key,
        value: readConstant({ node: value, reading }),
        source: sourceOfNode({ node: value, reading }),
      })),
    };
  });
}
