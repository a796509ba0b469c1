import type { CallExpression, Expression, Node } from 'acorn';
import { acorn } from '../packages.ts';
import type { DraftForm, ReadSamples, Sample } from './definition.ts';
import { Constants, isUnknown, visit, type Known } from './javascript.ts';
import { bodyOfText, firstHeader, requestOfParts, splitTarget, type DraftBody } from './request.ts';

/** JavaScript that calls `fetch(url, {...})`, as pages and the tools of browsers print it. */
export const fetchCalls: DraftForm = {
  name: 'fetch',
  what: 'JavaScript call of fetch',
  recognizes: (text) => /\bfetch\s*\(/.test(text),
  read: readFetches,
};

function readFetches(text: string): ReadSamples {
  const tree = parsed(text);
  if ('message' in tree) return tree;
  const constants = new Constants(tree.node);
  const samples: Sample[] = [];
  for (const call of callsOfFetch(tree.node)) {
    const sample = sampleOf(call, constants);
    if ('message' in sample) return sample;
    samples.push(sample);
  }
  if (samples.length === 0) return { message: 'It does not call fetch', advice: "Example: fetch('https://...')" };
  return { samples, notes: constants.notes };
}

/** The program, whether it is a module or the inside of a function. */
function parsed(text: string): Readonly<{ node: Node }> | Readonly<{ message: string; advice: string }> {
  const options = { ecmaVersion: 'latest', allowReturnOutsideFunction: true, allowAwaitOutsideFunction: true } as const;
  try {
    return { node: acorn().parse(text, { ...options, sourceType: 'module' }) };
  } catch (error) {
    const { message } = error as Error;
    return { message: `it is no JavaScript: ${message}`, advice: 'Paste whole statements, without TypeScript types.' };
  }
}

function callsOfFetch(root: Node): readonly CallExpression[] {
  const found: CallExpression[] = [];
  visit(root, (node) => {
    if (node.type === 'CallExpression' && nameOf((node as CallExpression).callee) === 'fetch')
      found.push(node as CallExpression);
  });
  return found;
}

/** `fetch`, also of `window.fetch`. */
function nameOf(callee: CallExpression['callee']): string | undefined {
  if (callee.type === 'Identifier') return callee.name;
  return callee.type === 'MemberExpression' && callee.property.type === 'Identifier' ? callee.property.name : undefined;
}

type NotRead = Readonly<{ message: string; advice?: string }>;

function sampleOf(call: CallExpression, constants: Constants): Sample | NotRead {
  const [first, second] = call.arguments;
  const target = first && constants.textOf(first as Expression);
  if (target === undefined) return { message: 'The URL of a fetch cannot be read', advice: 'Write it as a string.' };
  const init = second ? constants.valueOf(second as Expression) : undefined;
  const options = init instanceof Map ? init : new Map<string, Known>();
  constants.noteOthers(options, ['method', 'headers', 'body', 'credentials', 'mode', 'cache', 'referrer', 'signal']);
  if (!/^https?:\/\//i.test(target))
    return { message: `The URL "${target.slice(0, 60)}" is relative to a page`, advice: 'Write the whole URL.' };
  const headers = headersIn(options.get('headers'), constants);
  const body = bodyIn(options.get('body'), firstHeader(headers, 'content-type'), constants);
  const method = options.get('method');
  const said = typeof method === 'string' ? method.toUpperCase() : 'GET';
  return { request: requestOfParts(said, splitTarget(target), headers, body) };
}

function headersIn(given: Known, constants: Constants): readonly (readonly [string, string])[] {
  const pairs =
    given instanceof Map ? [...given] : Array.isArray(given) ? given.map((pair) => pair as [string, Known]) : [];
  return pairs.map(([name, value]) => [String(name), constants.shown(value)] as const);
}

function bodyIn(given: Known, type: string | undefined, constants: Constants): DraftBody | undefined {
  if (given === undefined || given === null || isUnknown(given)) return undefined;
  const text = constants.shown(given);
  if (type !== undefined) return bodyOfText(text, type);
  // Without a type fetch says that of a text, or of what makes the body.
  if (constants.isForm(given)) return bodyOfText(text, 'application/x-www-form-urlencoded;charset=UTF-8');
  constants.note('a body without Content-Type is sent as text/plain;charset=UTF-8, as fetch does');
  return { kind: 'text', text, type: 'text/plain;charset=UTF-8' };
}
