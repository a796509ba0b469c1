import { isSingular } from '../path/model.ts';
import { isList, kindOf, numberOf, type Maybe } from '../value/value.ts';
import type { Evaluate } from './compile.ts';
import { fault } from './fault.ts';
import { FunctionFault, type FunctionDefinition, type Parameter } from './functions/definition.ts';
import { findFunction } from './functions/list.ts';
import { ungrouped, type CallNode, type Node } from './model.ts';

/**
 * Compiles a call. `compile` is that of the place where it stands, so arguments follow the rules of the filter or of
 * the plain expression around. A wrong kind throws `EvaluationFault`, which a filter turns into nothing.
 */
export function compileCall(node: CallNode, compile: (argument: Node) => Evaluate): Evaluate {
  const definition = findFunction(node.name);
  // A file with an unknown function is never run; only its other expressions are looked at.
  if (!definition) return () => undefined;
  const args = node.args.map((argument, i) =>
    compileArgument(argument, definition.parameters[i]!, definition, compile),
  );
  return (frame) => {
    const values: Maybe[] = [];
    for (const [i, evaluate] of args.entries()) {
      const value = evaluate(frame);
      if (value === undefined) return undefined;
      values[i] = value;
    }
    try {
      return definition.evaluate(...values);
    } catch (error) {
      if (!(error instanceof FunctionFault)) throw error;
      return fault('wrong-argument', (node.args[error.argument] ?? node).range, error.message, error.advice);
    }
  };
}

function compileArgument(
  node: Node,
  parameter: Parameter,
  definition: FunctionDefinition,
  compile: (argument: Node) => Evaluate,
): Evaluate {
  const evaluate = compile(node);
  const inner = ungrouped(node);
  const many = inner.kind === 'path' && !isSingular(inner.segments);
  if (parameter.sort === 'presence') {
    return (frame) => {
      const value = evaluate(frame);
      return value !== undefined && !(many && isList(value) && value.length === 0);
    };
  }
  if (parameter.sort === 'nodes') {
    return (frame) => {
      const value = evaluate(frame);
      if (many) return value;
      return value === undefined ? [] : [value];
    };
  }
  const { accepts } = parameter;
  return (frame) => {
    const value = evaluate(frame);
    if (value === undefined || !accepts || accepts(value)) return value;
    const advice =
      numberOf(value) !== undefined && parameter.what === 'a text' ? 'Write text(x) for its digits.' : undefined;
    return fault(
      'wrong-argument',
      node.range,
      `${definition.name}() takes ${parameter.what}, and this is a ${kindOf(value)}`,
      advice,
    );
  };
}
