import { catalogue, type Code } from '../diagnostics/catalogue.ts';
import { positionOf, type Diagnostic, type SourceFile } from '../diagnostics/source.ts';
import type { Range } from '../diagnostics/problem.ts';

/** What is written into a SARIF log beside the findings. */
type SarifTool = Readonly<{ name: string; version: string }>;

/** Diagnostics as a SARIF 2.1.0 log (OASIS): one run, a rule for each code that occurs, and fixes where they are known. */
export function sarifLog(diagnostics: readonly Diagnostic[], tool: SarifTool): object {
  const codes = [...new Set(diagnostics.map(({ code }) => code))].sort();
  return {
    $schema: 'https://json.schemastore.org/sarif-2.1.0.json',
    version: '2.1.0',
    runs: [
      {
        tool: { driver: { ...tool, rules: codes.map(ruleOf) } },
        columnKind: 'utf16CodeUnits',
        results: diagnostics.map((each) => resultOf(each, codes.indexOf(each.code))),
      },
    ],
  };
}

function ruleOf(code: Code): object {
  const { title, level } = catalogue[code];
  return { id: code, shortDescription: { text: title }, defaultConfiguration: { level } };
}

function resultOf({ code, level, message, advice, file, range, edit }: Diagnostic, ruleIndex: number): object {
  const text = advice === undefined ? `${message}.` : `${message}. ${advice}`;
  return {
    ruleId: code,
    ruleIndex,
    level,
    message: { text },
    locations: [{ physicalLocation: { artifactLocation: locationOf(file), region: regionOf(file, range) } }],
    ...(edit
      ? {
          fixes: [
            {
              description: { text: advice ?? message },
              artifactChanges: [
                {
                  artifactLocation: locationOf(file),
                  replacements: [{ deletedRegion: regionOf(file, edit.range), insertedContent: { text: edit.text } }],
                },
              ],
            },
          ],
        }
      : {}),
  };
}

/** A relative URI (RFC 3986): each part of the path encoded. */
function locationOf({ path }: SourceFile): object {
  return { uri: path.split(/[\\/]/).map(encodeURIComponent).join('/') };
}

function regionOf(file: SourceFile, [from, to]: Range): object {
  const start = positionOf(file, from);
  const end = positionOf(file, to);
  return { startLine: start.line, startColumn: start.column, endLine: end.line, endColumn: end.column };
}
