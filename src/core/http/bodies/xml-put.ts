import type { Attr, Element, Node as DomNode } from '@xmldom/xmldom';
import { didYouMean } from '../../diagnostics/suggest.ts';
import { textOf } from '../../value/text.ts';
import { isList, isObject, type Maybe } from '../../value/value.ts';
import { NodeSet, unfitForXml } from '../../value/xml.ts';
import { absentIn, evaluateXPath, XPathFault, type Namespaces } from '../../value/xpath.ts';

/** What cannot be put into a document, or where nothing is found. */
export class Unfit extends Error {
  constructor(
    readonly code: 'found-nothing' | 'invalid-value' | 'invalid-xpath',
    message: string,
    readonly advice?: string,
  ) {
    super(message);
  }
}

/**
 * Puts a value where an XPath leads from a node: an array repeats the element, once for each item; an object changes what
 * is inside of it, by XPaths that start there; null takes it away; all else is its text. Throws `Unfit`.
 */
export function put(path: string, value: Maybe, from: DomNode, namespaces: Namespaces): void {
  const nodes = placesOf(path, from, namespaces);
  if (isList(value) && !(value instanceof NodeSet)) repeat(path, value, nodes, namespaces);
  else for (const node of nodes) change(path, node, value, namespaces);
}

/** The elements, attributes and texts that an XPath finds, or the attribute that is to be there. Throws `Unfit`. */
export function placesOf(path: string, from: DomNode, namespaces: Namespaces): readonly DomNode[] {
  const found = nodesOf(path, from, namespaces);
  if (found.length > 0) return found;
  const [, parent, name] = /^(.*?)\/?@([\w.-]+)$/.exec(path) ?? [];
  const elements = name === undefined ? [] : nodesOf(parent || '.', from, namespaces).filter(isElement);
  const there = elements.flatMap((element) => Array.from(element.attributes, (each) => each.name));
  const meant = name === undefined ? undefined : didYouMean(name, there);
  if (elements.length === 0 || meant !== undefined)
    throw new Unfit('found-nothing', `${path} found nothing in the file`, meant ?? whyNothing(path, from, namespaces));
  return elements.map((element) => {
    element.setAttribute(name!, '');
    return element.getAttributeNode(name!)!;
  });
}

function nodesOf(path: string, from: DomNode, namespaces: Namespaces): readonly DomNode[] {
  try {
    const found = evaluateXPath(path, from, namespaces);
    if (typeof found === 'object') return found;
    const advice = 'Select elements or attributes: /order/line, /order/@number.';
    throw new Unfit('invalid-xpath', `${path} gives a ${typeof found}, and no place in the file`, advice);
  } catch (error) {
    if (!(error instanceof XPathFault)) throw error;
    const { message, prefix } = error;
    throw new Unfit('invalid-xpath', message, prefix && `Add namespaces: {${prefix}: URI} to the call.`);
  }
}

/** What may be meant by an XPath that found nothing: a namespace that it leaves out, or one that is not there. */
function whyNothing(path: string, from: DomNode, namespaces: Namespaces): string {
  const absent = absentIn(path, from, namespaces);
  if (absent) return `No element is in the namespace "${absent.uri}"; there are ${absent.there.join(', ') || 'none'}.`;
  const root = from.ownerDocument?.documentElement ?? (from as { documentElement?: Element | null }).documentElement;
  const own = root?.prefix ? undefined : root?.namespaceURI;
  if (!root || !own || /[A-Za-z_][\w.-]*:[A-Za-z_*]/.test(path))
    return 'XPath starts at the root: /order/line, or //line for any depth.';
  const prefix = Object.keys(namespaces).find((each) => namespaces[each] === own);
  const said = `The elements are in the namespace "${own}".`;
  if (prefix !== undefined) return `${said} Write /${prefix}:${root.localName}.`;
  return `${said} Add namespaces: {n: "${own}"} to the call, and write /n:${root.localName}.`;
}

function change(path: string, node: DomNode, value: Maybe, namespaces: Namespaces): void {
  if (value === undefined || value === null) return remove(path, node);
  if (isObject(value)) {
    if (!isElement(node)) throw new Unfit('invalid-value', `${path} is no element, and cannot take an object`);
    for (const [name, member] of Object.entries(value)) put(name, member, node, namespaces);
    return;
  }
  const text = textOf(value);
  if (typeof text !== 'string') throw new Unfit('invalid-value', `The value of ${path} is ${text.what}`, text.advice);
  const unfit = unfitForXml(text);
  if (unfit !== undefined) throw new Unfit('invalid-value', unfit, 'Remove it with replaced().');
  if (isElement(node)) node.textContent = text;
  else if (isAttribute(node)) node.value = text;
  else node.nodeValue = text;
}

function remove(path: string, node: DomNode): void {
  if (isAttribute(node)) return void node.ownerElement?.removeAttributeNode(node);
  const { parentNode } = node;
  if (!parentNode || parentNode.nodeType === node.DOCUMENT_NODE)
    throw new Unfit('invalid-value', `${path} is the whole document, which cannot be left out`);
  const before = node.previousSibling;
  if (before && isBlank(before)) parentNode.removeChild(before);
  parentNode.removeChild(node);
}

/** In place of the elements found, which are examples, one for each item: a copy of the first, changed as the item says. */
function repeat(path: string, items: readonly Maybe[], nodes: readonly DomNode[], namespaces: Namespaces): void {
  const [first] = nodes;
  const parent = first!.parentNode;
  if (!isElement(first!) || !parent || parent.nodeType === first!.DOCUMENT_NODE)
    throw new Unfit('invalid-value', `${path} is no element inside of another, and cannot be repeated for an array`);
  if (nodes.some((node) => node.parentNode !== parent)) {
    const advice = 'Make the XPath more exact: /orders/order[1]/line.';
    throw new Unfit('invalid-value', `${path} found elements in several places, and an array has one`, advice);
  }
  const indent = first.previousSibling && isBlank(first.previousSibling) ? first.previousSibling : undefined;
  for (const item of items) {
    const copy = first.cloneNode(true);
    // What comes between two elements comes between two copies.
    if (indent) parent.insertBefore(indent.cloneNode(true), indent);
    parent.insertBefore(copy, indent ?? first);
    change(path, copy, item, namespaces);
  }
  for (const node of nodes) remove(path, node);
}

function isElement(node: DomNode): node is Element {
  return node.nodeType === node.ELEMENT_NODE;
}

function isAttribute(node: DomNode): node is Attr {
  return node.nodeType === node.ATTRIBUTE_NODE;
}

function isBlank(node: DomNode): boolean {
  return node.nodeType === node.TEXT_NODE && (node.nodeValue ?? '').trim() === '';
}
