import { diagnosticIn, type Source } from '../../diagnostics/source.ts';
import { fileName, type Named } from '../../schema/leaves.ts';
import { FillFault, fillValue, type Resolver } from '../../template/fill.ts';
import { textsOf } from '../../template/template.ts';
import type { Maybe } from '../../value/value.ts';
import { readXml, xmlText, XmlNode, type XmlDocument } from '../../value/xml.ts';
import { wrongXPath, type Namespaces } from '../../value/xpath.ts';
import type { BodyKind, BodyProblem } from './definition.ts';
import { at, plainFile, refuse, set, sourceOf, utf8File, type FileWithSet, type SetEntry } from './set.ts';
import { placesOf, put, Unfit } from './xml-put.ts';

type XmlFile = FileWithSet & Readonly<{ namespaces?: Named<Source> }>;

/** An XML file as an API documents it, with values put in by XPath, and elements repeated for arrays. */
export const xmlFile: BodyKind<XmlFile, 'set'> = {
  key: 'xml-file',
  schema: fileName().describe('An XML file that is sent as it is, except for what set changes.'),
  also: { set },
  reads: ['namespaces'],
  type: () => 'application/xml; charset=utf-8',
  texts: ({ main, set = [] }) => [main, ...set.flatMap(({ value }) => textsOf(value))],
  files: ({ main }) => [main],
  problems: ({ set = [] }) =>
    set.flatMap((entry) => {
      const message = wrongXPath(entry.name);
      const advice = 'Examples: /order/line, /order/@number, //line[1]/weight.';
      return message === undefined ? [] : [at(sourceOf(entry), 'invalid-xpath', message, advice)];
    }),
  fileProblems: ({ main, set = [], namespaces }, host) => {
    const file = plainFile(main, host, NOT_UTF8);
    if (typeof file !== 'string') return file;
    const document = read(file);
    if ('message' in document) return [at(main.source, 'not-decodable', document.message)];
    const known = namespacesFor(document, namespaces);
    return set.flatMap((entry) => problemOf(entry, () => placesOf(entry.name, document, known)) ?? []);
  },
  build: ({ main, set = [], namespaces }, resolver, host) => {
    const text = utf8File(main, { resolver, host, otherwise: NOT_UTF8 });
    const document = read(text);
    if ('message' in document) refuse(main.source, 'not-decodable', document.message);
    if (set.length === 0) return text;
    const known = namespacesFor(document, namespaces);
    for (const entry of set) {
      const value = valueOf(entry, resolver);
      const wrong = problemOf(entry, () => put(entry.name, value, document, known));
      if (wrong) throw new FillFault(diagnosticIn(wrong.source, wrong.problem));
    }
    return xmlText(new XmlNode(document));
  },
};

const NOT_UTF8 = 'The file is not UTF-8, as which it is sent';

/** The document of a file, or why there is none. */
function read(text: string): XmlDocument | Readonly<{ message: string }> {
  const charset = /^\ufeff?<\?xml[^>]*\sencoding\s*=\s*["']([^"']+)/.exec(text)?.[1];
  if (charset !== undefined && !/^(utf-?8|us-ascii)$/i.test(charset))
    return { message: `The file says that it is ${charset}, and it is sent as UTF-8` };
  const found = readXml(text);
  return 'document' in found ? found.document : { message: `The file is not XML: ${found.message}` };
}

/** Prefixes for the XPaths: those that the root of the file declares, and before them those of the call. */
function namespacesFor({ documentElement }: XmlDocument, own: Named<Source> = []): Namespaces {
  const declared = Array.from(documentElement?.attributes ?? []).filter(({ prefix }) => prefix === 'xmlns');
  return {
    ...Object.fromEntries(declared.map(({ localName, value }) => [localName, value])),
    ...Object.fromEntries(own.map(({ name, value }) => [name, value.text])),
  };
}

/** The value of an entry; an optional input that was not given leaves its place out. */
function valueOf({ value }: SetEntry, resolver: Resolver): Maybe {
  const filled = fillValue(value, resolver);
  return filled === 'left-out' ? undefined : filled.value;
}

function problemOf(entry: SetEntry, act: () => unknown): BodyProblem | undefined {
  try {
    act();
    return undefined;
  } catch (error) {
    if (!(error instanceof Unfit)) throw error;
    return at(sourceOf(entry), error.code, error.message, error.advice);
  }
}
