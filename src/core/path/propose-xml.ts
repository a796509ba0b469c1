import type { Document, Element } from '@xmldom/xmldom';

/** A place in an XML document: the path to it, the same for all of its kind, and its text. */
export type XmlHit = Readonly<{ exact: string; all: string; name: string; text: string }>;

/** Searches the texts, attributes and names of a document, whatever their case; whole texts come first. */
export function searchXml(document: Document, wanted: string): readonly XmlHit[] {
  const found: (XmlHit & { rank: number })[] = [];
  const sought = wanted.toLowerCase();
  const rankOf = (text: string, name: string): number | undefined => {
    if (text.toLowerCase() === sought) return 0;
    if (name.toLowerCase() === sought) return 1;
    return text.toLowerCase().includes(sought) ? 2 : undefined;
  };
  const visit = (element: Element, path: string, all: string): void => {
    const children = elementsOf(element);
    const text = (element.textContent ?? '').trim();
    const own = children.length === 0 ? text : '';
    const rank = rankOf(own, localNameOf(element));
    if (rank !== undefined) found.push({ exact: path, all, name: localNameOf(element), text, rank });
    for (const { name, value } of Array.from(element.attributes)) {
      const ofAttribute = name.startsWith('xmlns') ? undefined : rankOf(value, name);
      if (ofAttribute !== undefined)
        found.push({ exact: `${path}/@${name}`, all: `${all}/@${name}`, name, text: value, rank: ofAttribute });
    }
    for (const child of children) {
      const step = stepOf(child);
      const same = children.filter((each) => stepOf(each) === step);
      const place = same.length > 1 ? `[${same.indexOf(child) + 1}]` : '';
      visit(child, `${path}/${step}${place}`, `${all}/${step}`);
    }
  };
  const root = document.documentElement;
  if (root) visit(root, `/${stepOf(root)}`, `/${stepOf(root)}`);
  return found.sort((a, b) => a.rank - b.rank);
}

function elementsOf(element: Element): readonly Element[] {
  return Array.from(element.childNodes).filter((node): node is Element => node.nodeType === 1);
}

function localNameOf(element: Element): string {
  return element.localName ?? element.nodeName;
}

/** An element by its name; of one in a namespace by its local name, whatever prefix a file gives it. */
function stepOf(element: Element): string {
  const name = localNameOf(element);
  return element.namespaceURI ? `*[local-name()='${name}']` : name;
}
