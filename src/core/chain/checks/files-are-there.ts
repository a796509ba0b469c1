import { wholeOf } from '../../diagnostics/source.ts';
import { adviceOf } from '../../diagnostics/suggest.ts';
import { ungrouped, type Node } from '../../expression/model.ts';
import { Schemas } from '../../schema/json-schemas.ts';
import type { Expectation } from '../../http/expectation.ts';
import { plainTextOf } from '../../template/template.ts';
import { eachNode } from '../walk.ts';
import type { Rule, RuleContext } from './rule.ts';

/** Files that a chain names are there, and schemas are schemas. */
export const filesAreThere: Rule = (context) => {
  const schemas = new Schemas(context.readFile);
  /** Files that calls before save: they are there when they are needed. */
  const made = new Set<string>();
  return {
    call({ request: { body }, save }) {
      const name = save && plainTextOf(save);
      if (name !== undefined) made.add(name);
      const host = { openFile: context.openFile, boundary: '', namedFiles: new Set<string>() };
      for (const { source, problem } of body?.fileProblems(host) ?? []) {
        if (!made.has(source.text)) context.reportIn(source, problem);
      }
    },
    expectation(expectation) {
      if (expectation.form === 'schema') checkSchema(expectation, schemas, context);
      if (expectation.form === 'equals') checkWanted(expectation, context);
    },
    expression(tree, source) {
      if (!source.text.includes('file')) return;
      eachNode(tree, (node) => {
        if (node.kind !== 'call' || (node.name !== 'read_file' && node.name !== 'file_size')) return;
        const argument: Node | undefined = node.args[0] && ungrouped(node.args[0]);
        if (argument?.kind !== 'literal' || typeof argument.value !== 'string') return;
        const read = context.readFile(argument.value);
        if (!('bytes' in read)) {
          context.reportIn(source, {
            code: read.code ?? 'file-not-found',
            range: argument.range,
            message: read.message,
            ...adviceOf(read.advice),
          });
        }
      });
    },
  };
};

function checkSchema(
  { schema, source }: Extract<Expectation, { form: 'schema' }>,
  schemas: Schemas,
  { reportIn }: RuleContext,
): void {
  const compiled = 'file' in schema ? schemas.ofFile(schema.file.text) : schemas.ofValue(schema.inline);
  const range = wholeOf(source);
  if ('problem' in compiled) return reportIn(source, { ...compiled.problem, range });
  for (const { message, pointer } of compiled.unchecked)
    reportIn(source, { code: 'pattern-not-checked', range, message: `${message} at #${pointer}; it is not checked` });
}

/** A file that is to be written by `--accept` need not be there. */
function checkWanted(
  { wanted }: Extract<Expectation, { form: 'equals' }>,
  { reportIn, readFile, accepts }: RuleContext,
): void {
  if (accepts || !('file' in wanted)) return;
  const { source } = wanted.file;
  const name = plainTextOf(wanted.file);
  if (name === undefined) return;
  const read = readFile(name);
  if ('bytes' in read) return;
  const advice = 'Run with --accept to write it from the response.';
  reportIn(source, { code: read.code ?? 'file-not-found', range: wholeOf(source), message: read.message, advice });
}
