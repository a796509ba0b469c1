import { xpath, type XPathExpression } from '../packages.ts';
import { namespacesIn, type DomNode, type XmlDocument } from './xml.ts';

export type Namespaces = Readonly<Record<string, string>>;

/** What an expression gave: nodes in document order, a string, a number or a boolean. */
export type XPathResult = readonly DomNode[] | string | number | boolean;

/** An expression of XPath 1.0 that cannot be parsed or evaluated. */
export class XPathFault extends Error {
  constructor(
    message: string,
    /** A prefix that stands for no namespace. */
    readonly prefix?: string,
  ) {
    super(message);
  }
}

const compiledBefore = new Map<string, XPathExpression<DomNode>>();

/** Parses an expression. Throws `XPathFault`. */
function parseXPath(expression: string): XPathExpression<DomNode> {
  const known = compiledBefore.get(expression);
  if (known) return known;
  try {
    const compiled = xpath<DomNode>().parse(expression);
    if (compiledBefore.size > 500) compiledBefore.clear();
    compiledBefore.set(expression, compiled);
    return compiled;
  } catch (error) {
    throw new XPathFault(`"${expression}" is not an XPath expression: ${(error as Error).message.split('\n')[0]}`);
  }
}

/** Why an expression cannot be parsed; nothing for one that can. */
export function wrongXPath(expression: string): string | undefined {
  try {
    parseXPath(expression);
    return undefined;
  } catch (error) {
    return (error as XPathFault).message;
  }
}

/** What an expression gives, seen from a node. Throws `XPathFault`. */
export function evaluateXPath(expression: string, from: DomNode, namespaces: Namespaces): XPathResult {
  const compiled = parseXPath(expression);
  try {
    const result = compiled.evaluate({ node: from, namespaces: { ...namespaces } });
    if (result.num !== undefined) return result.num;
    if (result.b !== undefined) return result.b;
    return result.toArray ? result.toArray() : result.stringValue();
  } catch (error) {
    const { message } = error as Error;
    const prefix = /Cannot resolve QName (\w+)/.exec(message)?.[1];
    if (prefix === undefined) throw new XPathFault(message.split('\n')[0]!);
    throw new XPathFault(`The prefix "${prefix}" has no namespace`, prefix);
  }
}

/** A prefix of an expression whose namespace is nowhere in a document, and the namespaces that are. */
type AbsentNamespace = Readonly<{ prefix: string; uri: string; there: readonly string[] }>;

/** The first prefix of an expression that stands for a namespace which occurs nowhere in the document of a node. */
export function absentIn(expression: string, from: DomNode, namespaces: Namespaces): AbsentNamespace | undefined {
  const plain = expression.replace(/"[^"]*"|'[^']*'/g, '""');
  const prefixes = [...plain.matchAll(/([A-Za-z_][\w.-]*):(?=[A-Za-z_*])/g)].map(([, prefix]) => prefix!);
  // A node that was kept stands alone: what its document had is not known any more.
  const whole = from.nodeType === from.DOCUMENT_NODE ? from : from.ownerDocument;
  if (prefixes.length === 0 || !whole || (whole as XmlDocument).documentElement === from) return undefined;
  const there = namespacesIn(whole);
  const prefix = prefixes.find((each) => namespaces[each] !== undefined && !there.has(namespaces[each]));
  return prefix === undefined ? undefined : { prefix, uri: namespaces[prefix]!, there: [...there] };
}
