import * as z from 'zod';
import type { Problem } from '../diagnostics/problem.ts';
import type { Source } from '../diagnostics/source.ts';
import { didYouMean } from '../diagnostics/suggest.ts';
import { apiName, word, type Named } from '../schema/leaves.ts';
import { mapping } from '../schema/shape.ts';

/** What the project says of a secret: apis that it belongs to beside those whose keys read it, and the command that gives it. */
export type DeclaredSecret = Readonly<{
  name: string;
  apis: readonly Source[];
  command: readonly Source[] | undefined;
}>;

/** An entry of `secrets`: apis, or a command with apis. */
export const declaredSecret = z.union([
  z.array(apiName()).transform((apis) => ({ apis, command: undefined })),
  mapping({
    command: z
      .array(word('a word of a command line'))
      .describe(
        'A program and its arguments, run without a shell when the secret is first needed: it prints the value.',
      ),
    for: z
      .array(apiName())
      .optional()
      .describe('The APIs that the secret may be sent to beside those whose keys read it.'),
  }).transform((given) => ({ apis: given.for ?? [], command: given.command })),
]);

/** The declared secrets: the apis are the project's, and a command names a program. */
export function readSecrets(
  given: Named<Omit<DeclaredSecret, 'name'>>,
  apis: readonly Readonly<{ name: string }>[],
  report: (problem: Problem) => void,
): readonly DeclaredSecret[] {
  const known = apis.map(({ name }) => name);
  for (const { name, value, nameRange: range } of given) {
    for (const source of value.apis) reportUnknown(source, known, report);
    if (value.command?.length !== 0) continue;
    const message = `The command of the secret "${name}" is empty`;
    report({ code: 'key-missing', range, message, advice: `Name a program: command: [read-secret, ${name}].` });
  }
  return given.map(({ name, value }) => ({ name, ...value }));
}

/** An api that a secret is declared for must be one of the project's. */
function reportUnknown(source: Source, known: readonly string[], report: (problem: Problem) => void): void {
  if (known.includes(source.text)) return;
  const advice = didYouMean(source.text, known) ?? `Its APIs are ${known.join(', ')}.`;
  const range = source.locate([0, source.text.length]);
  report({ code: 'unknown-api', range, message: `The project has no API "${source.text}"`, advice });
}
