import { ManyNodes, nodesAsText, NodeSet, XmlNode } from '../value/xml.ts';
import { manyNodes, withNodes } from './nodes.ts';
import { aType } from '../value/show.ts';
import { isSingular } from '../path/model.ts';
import { isList, numberOf, type Maybe, type Value } from '../value/value.ts';
import { fault } from './fault.ts';
import type { Evaluate, Frame } from './frame.ts';
import { FunctionFault, type Argument, type FunctionDefinition, type Parameter } from './functions/definition.ts';
import { findFunction } from './functions/list.ts';
import { ungrouped, type CallNode, type Node } from './model.ts';
import { noteUnread, readersOf } from './unmet.ts';

/** How arguments over `@` are compiled wherever the call stands. */
export type PlainCompilers = Readonly<{
  value(node: Node): Evaluate;
  condition(node: Node): (frame: Frame) => boolean | undefined;
}>;

/**
 * Compiles a call. `compile` is that of the place where it stands, so arguments follow the rules of the filter or of
 * the plain expression around. A wrong kind throws `EvaluationFault`, which a filter turns into nothing.
 */
export function compileCall(node: CallNode, compile: (argument: Node) => Evaluate, plain: PlainCompilers): Evaluate {
  const definition = findFunction(node.name);
  // A file with an unknown function is never run; only its other expressions are looked at.
  if (!definition) return () => undefined;
  const args = node.args.map((argument, i) => {
    const parameter = definition.parameters[i];
    return parameter ? compileArgument(argument, parameter, definition, compile, plain) : compile(argument);
  });
  const over = definition.parameters.findIndex(({ sort }) => sort === 'itemCondition');
  const readers = over < 0 || !node.args[over] ? [] : readersOf(node.args[over], false);
  const mayBeNothing = definition.parameters.map(({ sort }) => sort === 'maybe');
  return (frame) => {
    const values: Argument[] = [];
    for (const [i, evaluate] of args.entries()) {
      const value = evaluate(frame);
      if (value === undefined && !mayBeNothing[i]) return undefined;
      values[i] = value;
    }
    if (readers.length > 0 && isList(values[0] as Maybe)) noteUnread(readers, values[0] as readonly Value[], frame);
    try {
      const given = definition.needsHost ? [frame.host, ...values] : values;
      return definition.evaluate(...(given as never[]));
    } catch (error) {
      if (error instanceof ManyNodes) return manyNodes(error, node.range);
      if (!(error instanceof FunctionFault)) throw error;
      return fault('wrong-argument', (node.args[error.argument] ?? node).range, error.message, error.advice);
    }
  };
}

type Prepare = (frame: Frame) => Argument;

function compileArgument(
  node: Node,
  parameter: Parameter,
  definition: FunctionDefinition,
  compile: (argument: Node) => Evaluate,
  plain: PlainCompilers,
): Prepare {
  switch (parameter.sort) {
    case 'presence':
      return compilePresence(node, compile);
    case 'nodes':
      return compileNodes(node, compile);
    case 'maybe':
      return compile(node);
    case 'private': {
      const evaluate = compile(node);
      return (frame) => evaluate({ ...frame, host: frame.host.unrecorded });
    }
    case 'lazy': {
      const evaluate = compile(node);
      return (frame) => () => evaluate(frame);
    }
    case 'item':
      return overItems(plain.value(node));
    case 'itemCondition':
      return overItems(plain.condition(node));
    case 'value':
    case 'list':
    case 'condition':
      return compileKind(node, parameter, definition, compile);
  }
}

/** An expression over `@`. It is no filter, wherever the call stands, so the plain rules hold in it. */
function overItems(evaluate: Evaluate): Prepare {
  return (frame) => (item: Value) => {
    const saved = frame.item;
    frame.item = item;
    const value = evaluate(frame);
    frame.item = saved;
    return value;
  };
}

function compilePresence(node: Node, compile: (argument: Node) => Evaluate): Prepare {
  const evaluate = compile(node);
  const many = findsMany(node);
  return (frame) => {
    const value = evaluate(frame);
    return value !== undefined && !(many && isList(value) && value.length === 0);
  };
}

function compileNodes(node: Node, compile: (argument: Node) => Evaluate): Prepare {
  const evaluate = compile(node);
  if (findsMany(node)) return evaluate;
  return (frame) => {
    const value = evaluate(frame);
    return value === undefined ? [] : [value];
  };
}

function findsMany(node: Node): boolean {
  const inner = ungrouped(node);
  return inner.kind === 'path' && !isSingular(inner.segments);
}

function compileKind(
  node: Node,
  parameter: Parameter,
  definition: FunctionDefinition,
  compile: (argument: Node) => Evaluate,
): Prepare {
  const evaluate = compile(node);
  const { accepts } = parameter;
  return (frame) => {
    const value = evaluate(frame);
    if (value === undefined || !accepts || accepts(value)) return value;
    if (value instanceof XmlNode || value instanceof NodeSet) {
      const text = withNodes(node.range, () => nodesAsText(value));
      if (text === undefined || accepts(text)) return text;
    }
    const advice =
      numberOf(value) !== undefined && parameter.what === 'a string' ? 'Write string(x) for its digits.' : undefined;
    return fault(
      'wrong-argument',
      node.range,
      `${definition.name}() takes ${parameter.what}, not ${aType(value)}`,
      advice,
    );
  };
}
