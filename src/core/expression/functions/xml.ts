import { xpath, type XPathExpression } from '../../packages.ts';
import type { Maybe } from '../../value/value.ts';
import { namespacesIn, NodeSet, XmlNode, type DomNode, type XmlDocument } from '../../value/xml.ts';
import type { Host } from '../host.ts';
import { FunctionFault, type FunctionDefinition, type Parameter } from './definition.ts';
import { nodeValue, optional, textValue } from './parameters.ts';
import { responseOf } from './response.ts';

const expressionText: Parameter = {
  ...textValue('expression'),
  examine: (value) => {
    const wrong = typeof value === 'string' ? parsed(value) : undefined;
    return wrong instanceof FunctionFault
      ? { code: 'invalid-xpath', message: wrong.message, advice: XPATH_ADVICE }
      : undefined;
  },
};

const XPATH_ADVICE = "Examples of XPath 1.0: xpath('//tide[@height > 2]/time'), xpath('string(/tides/@port)').";

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

/** XML responses. */
export const xml: readonly FunctionDefinition[] = [
  {
    name: 'xpath',
    parameters: [expressionText, optional(nodeValue())],
    result: undefined,
    needsHost: true,
    ofResponse: true,
    errors: 'The expression is not XPath 1.0, a prefix has no namespace, or the body is not XML.',
    about:
      'What an XPath 1.0 expression finds in an XML response, or below a node: an array of nodes, a string, a number or a boolean. Prefixes are those of namespaces.',
    alias: ['xml', 'xml_path', 'xquery'],
    example: ["xpath('string(/tides/@port)')", "'Kvitnes'"],
    evaluate: (host: Host, expression: string, node?: XmlNode) => {
      const compiled = parsed(expression);
      if (compiled instanceof FunctionFault) throw compiled;
      const around = host.response;
      const from: DomNode | null | undefined = node?.node ?? responseOf(host).document;
      if (!from)
        throw new FunctionFault('This response is not XML', 'xpath() reads XML; JSON is read by paths from $.');
      return evaluated(compiled, from, { ...node?.namespaces, ...around?.namespaces }, expression);
    },
  },
];

const compiledBefore = new Map<string, XPathExpression<DomNode>>();

function parsed(expression: string): XPathExpression<DomNode> | FunctionFault {
  const known = compiledBefore.get(expression);
  if (known) return known;
  try {
    const compiled = xpath<DomNode>().parse(expression);
    if (compiledBefore.size > 500) compiledBefore.clear();
    compiledBefore.set(expression, compiled);
    return compiled;
  } catch (error) {
    return new FunctionFault(
      `"${expression}" is not an XPath expression: ${(error as Error).message.split('\n')[0]}`,
      XPATH_ADVICE,
    );
  }
}

type Namespaces = Readonly<Record<string, string>>;

/** A set of nodes, a string, a number or a boolean; nothing for a number that is none, and for what could not be looked for. */
function evaluated(
  compiled: XPathExpression<DomNode>,
  from: DomNode,
  namespaces: Namespaces,
  expression: string,
): Maybe {
  try {
    const result = compiled.evaluate({ node: from, namespaces: { ...namespaces } });
    if (result.num !== undefined) return Number.isFinite(result.num) ? result.num : undefined;
    if (result.b !== undefined) return result.b;
    if (!result.toArray) return result.stringValue();
    const set = new NodeSet();
    for (const node of result.toArray()) set.push(new XmlNode(node, namespaces));
    return set.length === 0 && absentIn(expression, from, namespaces) ? undefined : set;
  } catch (error) {
    const { message } = error as Error;
    const prefix = /Cannot resolve QName (\w+)/.exec(message)?.[1];
    if (prefix === undefined) throw new FunctionFault(message.split('\n')[0]!);
    throw new FunctionFault(`The prefix "${prefix}" has no namespace`, `Add namespaces: {${prefix}: URI} to the call.`);
  }
}
