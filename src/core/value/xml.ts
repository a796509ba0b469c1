import type { Node as DomNode, Document, Element } from '@xmldom/xmldom';
import { xmldom } from '../packages.ts';
import { NonJsonValue, type Maybe, type Value } from './value.ts';

export type { DomNode };
export type XmlDocument = Document;

const NO_NAMESPACES: Readonly<Record<string, string>> = Object.freeze({});

/** A node of an XML document: an element, an attribute, a text, or the document itself. */
export class XmlNode extends NonJsonValue {
  readonly type = 'node';
  constructor(
    readonly node: DomNode,
    /** Prefixes by which it was found: they go on to mean the same below it. */
    readonly namespaces: Readonly<Record<string, string>> = NO_NAMESPACES,
  ) {
    super();
  }
}

/** What an XPath expression found: a list of nodes in document order. Where one text is needed, its only node stands for it. */
export class NodeSet extends Array<Value> {
  /** What is made of it (`map`, `filter`) is an ordinary list. */
  static override get [Symbol.species](): ArrayConstructor {
    return Array;
  }
}

/** Several nodes where one text is needed. */
export class ManyNodes extends Error {
  constructor(readonly count: number) {
    super(`${count} nodes were found instead of one`);
  }
}

/** The string value of a node (XPath 1.0 section 5). */
export function nodeText({ node }: XmlNode): string {
  if (node.nodeType === node.DOCUMENT_NODE) return (node as Document).documentElement?.textContent ?? '';
  return node.textContent ?? node.nodeValue ?? '';
}

/** A node, or a set of one, as its text; an empty set as nothing; any other value as it is. Throws `ManyNodes`. */
export function nodesAsText(value: Maybe): Maybe {
  if (value instanceof XmlNode) return nodeText(value);
  if (!(value instanceof NodeSet)) return value;
  if (value.length > 1) throw new ManyNodes(value.length);
  const [only] = value;
  return only instanceof XmlNode ? nodeText(only) : only;
}

/** What a text has that no document may hold, not even escaped (XML 1.0 section 2.2). */
export function unfitForXml(text: string): string | undefined {
  const bad = /[\0-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]|[\ud800-\udbff](?![\udc00-\udfff])/.exec(text);
  if (!bad) return undefined;
  const code = bad[0].charCodeAt(0).toString(16).toUpperCase().padStart(4, '0');
  return `The value has the character U+${code}, which XML cannot represent`;
}

/** Levels of elements (semantics: limits). */
const MAX_DEPTH = 512;

type XmlRead = Readonly<{ document: XmlDocument }> | Readonly<{ message: string; tooDeep?: true }>;

/** Parses XML 1.0 with namespaces. A DOCTYPE is refused, so there are no entities but the five of XML. Never throws. */
export function readXml(text: string): XmlRead {
  if (/<!DOCTYPE/i.test(text)) return { message: 'it has a DOCTYPE, which is not allowed' };
  if (depthOf(text) > MAX_DEPTH) return { message: `it nests more than ${MAX_DEPTH} levels deep`, tooDeep: true };
  const { DOMParser, onErrorStopParsing } = xmldom();
  try {
    const document = new DOMParser({ onError: onErrorStopParsing }).parseFromString(text, 'application/xml');
    return { document };
  } catch (error) {
    return { message: (error as Error).message.split('\n')[0]!.replace(/^\[xmldom [^\]]*\]\s*/, '') };
  }
}

/** The deepest level of elements, counted without building anything. */
function depthOf(text: string): number {
  let depth = 0;
  let deepest = 0;
  for (const [tag] of text.matchAll(/<!--[^]*?-->|<!\[CDATA\[[^]*?\]\]>|<\/?[^!?\s][^>]*>/g)) {
    if (tag.startsWith('<!') || tag.endsWith('/>')) continue;
    depth += tag.startsWith('</') ? -1 : 1;
    deepest = Math.max(deepest, depth);
  }
  return deepest;
}

/** A node as XML text of its own, with the namespaces that it uses. */
export function xmlText({ node }: XmlNode): string {
  const { XMLSerializer } = xmldom();
  if (node.nodeType === node.ATTRIBUTE_NODE || node.nodeType === node.TEXT_NODE) return node.nodeValue ?? '';
  return new XMLSerializer().serializeToString(node);
}

/** A node for keeping: a document of its own, so that it no longer holds the response it came from. */
export function detached(value: Value): Value {
  if (value instanceof NodeSet) {
    const set = new NodeSet();
    for (const item of value) set.push(detached(item));
    return set;
  }
  if (!(value instanceof XmlNode) || value.node.nodeType !== value.node.ELEMENT_NODE) return value;
  const read = readXml(xmlText(value));
  const element = 'document' in read ? read.document.documentElement : undefined;
  return element ? new XmlNode(element, value.namespaces) : value;
}

/** The namespaces of elements and attributes in a document or below a node, in order. */
export function namespacesIn(from: DomNode): ReadonlySet<string> {
  const found = new Set<string>();
  const waiting: DomNode[] = [from];
  for (let node = waiting.pop(); node; node = waiting.pop()) {
    const { namespaceURI, attributes, childNodes } = node as Element;
    if (namespaceURI) found.add(namespaceURI);
    for (const { namespaceURI: uri } of Array.from(attributes ?? [])) if (uri && uri !== XMLNS) found.add(uri);
    waiting.push(...Array.from(childNodes ?? []).reverse());
  }
  return found;
}

/** The namespace of declarations themselves (Namespaces in XML 1.0 section 3). */
const XMLNS = 'http://www.w3.org/2000/xmlns/';
