import { findFunction } from '../../expression/functions/list.ts';
import { ungrouped, type CallNode, type Node } from '../../expression/model.ts';
import { calculate, WrongOperands } from '../../expression/operators.ts';
import { Bytes, DateTime, Duration, type ValueType, type Value } from '../../value/value.ts';
import { typeOfTree } from '../value-types.ts';
import { eachNode } from '../walk.ts';
import type { Rule } from './rule.ts';

/** A value of each kind, by which functions and operators are asked whether they take it. */
const SAMPLES: Readonly<Partial<Record<ValueType, Value>>> = {
  null: null,
  boolean: true,
  number: 1,
  string: 'x',
  array: [],
  object: {},
  duration: new Duration(1000),
  'date-time': new DateTime(0),
  bytes: new Bytes(new Uint8Array()),
};

/** Functions and operators get values of kinds that they take, as far as the kinds are known. */
export const typesFit: Rule = ({ reportIn }) => ({
  expression(tree, source, { names, response }) {
    const sampleOf = (node: Node): Value | undefined => {
      const kind = typeOfTree(node, names, response);
      return kind === undefined ? undefined : SAMPLES[kind];
    };
    eachNode(tree, (node, inside) => {
      // In a filter a wrong kind is nothing, as RFC 9535 says, and no mistake.
      if (inside.filter) return;
      if (node.kind === 'call') {
        for (const { argument, message } of wrongArguments(node, sampleOf)) {
          const text = source.text.slice(...argument.range);
          reportIn(source, { code: 'wrong-argument', range: argument.range, message: message(text) });
        }
      }
      if (node.kind !== 'binary' || !['+', '-', '*', '/', '%'].includes(node.operator)) return;
      const [left, right] = [sampleOf(node.left), sampleOf(node.right)];
      if (left === undefined || right === undefined) return;
      const result = calculate(node.operator as '+', left, right);
      if (!(result instanceof WrongOperands)) return;
      const { message, advice } = result;
      reportIn(source, {
        code: 'wrong-argument',
        range: node.range,
        message,
        ...(advice === undefined ? {} : { advice }),
      });
    });
  },
});

type Wrong = Readonly<{ argument: Node; message(text: string): string }>;

function wrongArguments(call: CallNode, sampleOf: (node: Node) => Value | undefined): readonly Wrong[] {
  const parameters = findFunction(call.name)?.parameters ?? [];
  return call.args.flatMap((argument, i): Wrong[] => {
    const parameter = parameters[i];
    // Literals were told when the expression was read.
    if (!parameter?.accepts || ungrouped(argument).kind === 'literal') return [];
    const sample = sampleOf(argument);
    if (sample === undefined || parameter.accepts(sample)) return [];
    return [{ argument, message: (text) => `${call.name}() takes ${parameter.what}, and ${text} is not` }];
  });
}
