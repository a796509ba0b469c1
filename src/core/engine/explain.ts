import { evaluate, locate } from '../expression/evaluate.ts';
import type { Frame } from '../expression/frame.ts';
import { startOf } from '../expression/fault.ts';
import { partsOf, type Node, type PathNode } from '../expression/model.ts';
import { findFunction } from '../expression/functions/list.ts';
import { isCondition } from '../expression/typing.ts';
import type { Source } from '../diagnostics/source.ts';
import { explainMiss } from '../path/miss.ts';
import { nameList } from '../value/show.ts';
import { XmlNode, type XmlDocument } from '../value/xml.ts';
import { namesRead } from '../expression/names-read.ts';
import { utf8Text } from '../value/utf8.ts';
import { formOfText, pageText, readAsAdvice } from '../http/text-form.ts';
import { Bytes, isList, type Maybe } from '../value/value.ts';
import { absentIn } from '../value/xpath.ts';

/** A path, name or call of an expression, with the value that it had. */
export type Part = Readonly<{ node: Node; text: string; value: Maybe }>;

/** The paths, names and computed values that an expression is made of, each once, with their values. */
export function partsSeen(tree: Node, source: Source, frame: Frame): readonly Part[] {
  const parts = new Map<string, Part>();
  const see = (node: Node): void => {
    const text = source.text.slice(...node.range);
    if (!parts.has(text)) parts.set(text, { node, text, value: evaluate(node, frame).value });
  };
  const visit = (node: Node): void => {
    if (node.kind === 'call' && node !== tree && !isCondition(node)) see(node);
    if (node.kind === 'path' && node.start.kind !== 'value') {
      see(node);
      outerNames(partsOf(node)).forEach(see);
    } else if (node.kind === 'call') {
      // Arguments over items are read through names from outside alone: `@` means nothing here.
      const sorts = findFunction(node.name)?.parameters.map(({ sort }) => sort) ?? [];
      node.args.forEach((argument, i) =>
        /^item/.test(sorts[i] ?? '') ? outerNames([argument]).forEach(see) : visit(argument),
      );
    } else {
      partsOf(node).forEach(visit);
    }
  };
  visit(tree);
  return [...parts.values()];
}

/** Paths that begin at a name, inside filters or arguments over items. */
function outerNames(nodes: readonly Node[]): readonly PathNode[] {
  return nodes.flatMap((node) => [
    ...(node.kind === 'path' && node.start.kind === 'name' ? [node] : []),
    ...outerNames(partsOf(node)),
  ]);
}

/** Why nothing was found: where, and what is there instead. */
type Explanation = Readonly<{
  code: 'found-nothing' | 'not-answered';
  message: string;
  advice?: string;
  part?: Part;
}>;

/** Why the whole of an expression was nothing: the first path in it that found nothing, and how far it got. */
export function explainNothing(tree: Node, source: Source, frame: Frame): Explanation {
  const parts = partsSeen(tree, source, frame);
  const part = parts.find(({ node, value }) => node.kind === 'path' && value === undefined);
  if (part?.node.kind !== 'path') return explainWithoutPath(tree, source, frame, parts);
  const { node, text } = part as Part & { node: PathNode };
  const start = startOf(node, source.text);
  const root = evaluate({ ...node, segments: [] }, frame).value;
  if (root === undefined) return explainStart(part as Part & { node: PathNode }, start, frame);
  if (root instanceof XmlNode) {
    const first = node.segments[0]?.selectors[0];
    const name = first?.kind === 'name' ? first.name : '...';
    const message = `${text} found nothing: ${start} is XML, and paths read JSON`;
    return { code: 'found-nothing', message, advice: `Write xpath('//${name}').`, part };
  }
  const other = start === '$' ? otherForm(root) : undefined;
  if (other)
    return { code: 'found-nothing', message: `${text} found nothing: ${other.what}`, advice: other.advice, part };
  const found = (segments: PathNode['segments']) => locate({ ...node, segments }, frame);
  const miss = explainMiss(start, root, node.segments, found);
  const advice = miss.nearest === undefined ? {} : { advice: `${miss.nearest} is there.` };
  const message = `${text} found nothing: ${miss.there}`;
  return withReasons<Explanation>({ code: 'found-nothing', message, ...advice, part }, node, frame);
}

/** Of a body that was read as a text or as bytes: what it looks like, and how it is read then. */
function otherForm(body: Maybe): Readonly<{ what: string; advice: string }> | undefined {
  const text = typeof body === 'string' ? body : body instanceof Bytes ? utf8Text(body.data) : undefined;
  const form = text === undefined ? undefined : formOfText(text);
  const advice = readAsAdvice(form);
  if (text === undefined || form === undefined || advice === undefined) return undefined;
  const as = typeof body === 'string' ? 'plain text' : 'bytes';
  if (form !== 'html') return { what: `the body was read as ${as}`, advice };
  const [title = '', ...lines] = pageText(text).split('\n');
  return { what: `the body is an HTML page: ${[title, ...lines.slice(0, 2)].join(' / ').slice(0, 200)}`, advice };
}

/** Every path in it found something, and what is made of them is nothing. */
function explainWithoutPath(tree: Node, source: Source, frame: Frame, parts: readonly Part[]): Explanation {
  const absent = absentNamespace([...parts.map(({ node }) => node), tree], source, frame);
  if (absent) return absent;
  const empty = parts.find(({ value }) => isList(value) && value.length === 0);
  const why = empty ? `: ${empty.text} is an empty array` : '';
  const message = `${source.text.slice(...tree.range)} found nothing${why}`;
  return withReasons<Explanation>({ code: 'found-nothing', message }, tree, frame);
}

/** Where a path begins there is nothing. */
function explainStart(part: Part & { node: PathNode }, start: string, frame: Frame): Explanation {
  const { node, text } = part;
  const lacking = node.start.kind === 'name' ? frame.lacking?.(node.start.name) : undefined;
  if (lacking !== undefined) return { code: 'not-answered', message: `${start} has no value: ${lacking}`, part };
  const why = start === '$' ? 'the response has no body' : `${start} has no value in this run`;
  return { code: 'found-nothing', message: `${text} found nothing: ${why}`, part };
}

/** Of an `xpath` that finds nothing since a prefix stands for a namespace that is not there: which there are. */
function absentNamespace(nodes: readonly Node[], source: Source, frame: Frame): Explanation | undefined {
  for (const node of nodes) {
    const absent = node.kind === 'call' && node.name === 'xpath' ? absentFor(node.args, frame) : undefined;
    if (!absent) continue;
    const { prefix, uri, there } = absent;
    const message = `${source.text.slice(...node.range)} found nothing: nothing is in the namespace ${uri} of the prefix ${prefix}`;
    const advice = there.length > 0 ? `These are there: ${nameList(there)}.` : 'The document has no namespaces.';
    return { code: 'found-nothing', message, advice };
  }
  return undefined;
}

function absentFor([expression, below]: readonly Node[], frame: Frame): ReturnType<typeof absentIn> {
  const { response } = frame.host;
  const text = expression && evaluate(expression, frame).value;
  const from = below ? evaluate(below, frame).value : response?.document;
  const start = from instanceof XmlNode ? from.node : (from as XmlDocument | undefined);
  if (typeof text !== 'string' || !start) return undefined;
  const own = from instanceof XmlNode ? from.namespaces : {};
  return absentIn(text, start, { ...own, ...response?.namespaces });
}

/** What is wrong with an expression, with the steps that kept an empty array under a name that it reads, and by what. */
export function withReasons<T extends Readonly<{ advice?: string }>>(problem: T, tree: Node, frame: Frame): T {
  const reasons = namesRead(tree).flatMap((name) => {
    const value = frame.name(name);
    const why = isList(value) && value.length === 0 ? frame.lacking?.(name) : undefined;
    return why === undefined ? [] : [`${why}.`];
  });
  return reasons.length === 0
    ? problem
    : { ...problem, advice: [...reasons, problem.advice].filter(Boolean).join(' ') };
}
