import type { Maybe } from '../../value/value.ts';
import { NodeSet, XmlNode, type DomNode } from '../../value/xml.ts';
import { absentIn, evaluateXPath, wrongXPath, XPathFault, type Namespaces } from '../../value/xpath.ts';
import type { Host } from '../host.ts';
import { FunctionFault, type FunctionDefinition, type Parameter } from './definition.ts';
import { nodeValue, optional, textValue } from './parameters.ts';
import { responseOf } from './response.ts';

const expressionText: Parameter = {
  ...textValue('expression'),
  examine: (value) => {
    if (typeof value !== 'string') return undefined;
    const message = wrongXPath(value);
    return message === undefined ? undefined : { code: 'invalid-xpath', message, advice: XPATH_ADVICE };
  },
};

const XPATH_ADVICE = "Examples of XPath 1.0: xpath('//tide[@height > 2]/time'), xpath('string(/tides/@port)').";

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
      const around = host.response;
      const from: DomNode | null | undefined = node?.node ?? responseOf(host).document;
      if (!from)
        throw new FunctionFault('This response is not XML', 'xpath() reads XML; JSON is read by paths from $.');
      return evaluated(expression, from, { ...node?.namespaces, ...around?.namespaces });
    },
  },
];

/** A set of nodes, a string, a number or a boolean; nothing for a number that is none, and for what could not be looked for. */
function evaluated(expression: string, from: DomNode, namespaces: Namespaces): Maybe {
  try {
    const result = evaluateXPath(expression, from, namespaces);
    if (typeof result === 'number') return Number.isFinite(result) ? result : undefined;
    if (typeof result !== 'object') return result;
    const set = new NodeSet();
    for (const node of result) set.push(new XmlNode(node, namespaces));
    return set.length === 0 && absentIn(expression, from, namespaces) ? undefined : set;
  } catch (error) {
    if (!(error instanceof XPathFault)) throw error;
    const { message, prefix } = error;
    throw new FunctionFault(message, prefix ? `Add namespaces: {${prefix}: URI} to the call.` : XPATH_ADVICE);
  }
}
