import type { Document, Element } from '@xmldom/xmldom';
import type { LineOfBody } from './lines.ts';

/** A place in an XML document: the path to it, the same for all of its kind, and its text. */
export type XmlHit = Readonly<{ exact: string; all: string; name: string; text: string }>;

/** Searches the texts, attributes and names of a document, whatever their case; whole texts come first. */
export function searchXml(document: Document, wanted: string): readonly XmlHit[] {
  const sought = wanted.toLowerCase();
  const rankOf = ({ text, name, holdsOthers }: XmlPlace): number | undefined => {
    const own = holdsOthers ? '' : text.toLowerCase();
    if (own === sought) return 0;
    if (name.toLowerCase() === sought) return 1;
    return own.includes(sought) ? 2 : undefined;
  };
  return placesIn(document)
    .flatMap((place) => {
      const rank = rankOf(place);
      return rank === undefined ? [] : [{ ...place, rank }];
    })
    .sort((a, b) => a.rank - b.rank);
}

/** Texts and attributes of a document in order, each with its path. */
export function linesOfXml(document: Document): readonly LineOfBody[] {
  return placesIn(document).flatMap(({ exact, text, holdsOthers }) =>
    holdsOthers ? [] : [{ path: exact, value: text }],
  );
}

type XmlPlace = XmlHit & Readonly<{ holdsOthers: boolean }>;

/** Every element and attribute in the order of the document; a declared namespace is no attribute. */
function placesIn(document: Document): readonly XmlPlace[] {
  const places: XmlPlace[] = [];
  const visit = (element: Element, exact: string, all: string): void => {
    const children = elementsOf(element);
    const text = (element.textContent ?? '').trim();
    places.push({ exact, all, name: localNameOf(element), text, holdsOthers: children.length > 0 });
    for (const { name, value } of Array.from(element.attributes)) {
      if (name.startsWith('xmlns')) continue;
      places.push({ exact: `${exact}/@${name}`, all: `${all}/@${name}`, name, text: value, holdsOthers: false });
    }
    for (const child of children) {
      const step = stepOf(child);
      const same = children.filter((each) => stepOf(each) === step);
      const place = same.length > 1 ? `[${same.indexOf(child) + 1}]` : '';
      visit(child, `${exact}/${step}${place}`, `${all}/${step}`);
    }
  };
  const root = document.documentElement;
  if (root) visit(root, `/${stepOf(root)}`, `/${stepOf(root)}`);
  return places;
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
