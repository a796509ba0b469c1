import { isAlias, isMap, isScalar, isSeq, LineCounter, parseAllDocuments, type Document, type ParsedNode } from 'yaml';
import type { Problem, Range } from '../diagnostics/problem.ts';
import type { SourceFile } from '../diagnostics/source.ts';
import { scalarNode } from './scalar.ts';
import { readSimpleYaml } from './simple.ts';
import type { Reading, YamlEntry, YamlNode, YamlScalar } from './tree.ts';

/** Bytes of a file, and levels and nodes of its tree with aliases followed: they stop files made to fill the memory. */
const MAX_LENGTH = 4 * 1024 * 1024;
const MAX_DEPTH = 64;
const MAX_ALIASES = 100;
const MAX_NODES = 500_000;

/** Ends the reading of a file of which no tree can be made. */
class Unreadable extends Error {
  constructor(readonly problem: Problem) {
    super(problem.message);
  }
}

/**
 * Reads YAML 1.2 to a tree with places. Every problem is reported; the tree is absent when the file is not YAML, or
 * uses a part of YAML that is not used here. Never throws.
 */
export function readYaml({ file, report }: Reading): YamlNode | undefined {
  try {
    if (file.text.length > MAX_LENGTH) {
      throw new Unreadable({
        code: 'file-too-big',
        range: [0, 1],
        message: 'The file exceeds 4 MiB',
      });
    }
    const simple = readSimpleYaml(file);
    if (simple) return simple;
    return readFullYaml(file, report);
  } catch (error) {
    if (error instanceof RangeError) {
      report(tooDeep([0, 1]));
      return undefined;
    }
    if (!(error instanceof Unreadable)) throw error;
    report(error.problem);
    return undefined;
  }
}

/** Reads with the package's own composer, which knows all of YAML and explains every mistake. */
export function readFullYaml(file: SourceFile, report: (problem: Problem) => void): YamlNode | undefined {
  const document = parseOne(file);
  if (document.contents === null) return { kind: 'map', range: [0, 0], entries: [] };
  return new TreeBuilder(file, document, report).build(document.contents, 0);
}

type Parsed = Document.Parsed<ParsedNode>;

function parseOne(file: SourceFile): Parsed {
  const documents = parseAllDocuments(file.text, {
    version: '1.2',
    lineCounter: new LineCounter(),
    prettyErrors: false,
    uniqueKeys: false,
    strict: true,
    keepSourceTokens: false,
  }) as Parsed[];
  const [document, second] = documents;
  if (!document) return parseOne({ ...file, text: '{}' });
  const [error] = document.errors;
  if (error) throw new Unreadable(explainYamlError(file.text, error));
  if (second) {
    const start = second.range[0];
    throw new Unreadable(
      notAllowed([start, start + 3], 'A file contains one document', 'Put the second document into its own file.'),
    );
  }
  return document;
}

function notAllowed(range: Range, message: string, advice: string): Problem {
  return { code: 'yaml-not-allowed', range, message, advice };
}

/** The parser's own errors in plain words. */
function explainYamlError(
  text: string,
  error: { code: string; message: string; pos: readonly [number, number] },
): Problem {
  const [from, to] = error.pos;
  const range: Range = [from, Math.max(Math.min(to, endOfLine(text, from)), from + 1)];
  // The package's composer recurses into collections, and reports it when that has used up the stack.
  if (/call stack/i.test(error.message)) return tooDeep(range);
  switch (error.code) {
    case 'TAB_AS_INDENT':
      return {
        code: 'tab-indented',
        range,
        message: 'A tab in the indentation',
        advice: 'Indent with spaces.',
      };
    case 'MULTILINE_IMPLICIT_KEY':
    case 'BLOCK_AS_IMPLICIT_KEY':
      return {
        code: 'not-yaml',
        range,
        message: 'The indentation of this line does not fit',
        advice: 'Check for a missing ":" or a wrong indentation here or in the line above.',
      };
    case 'MISSING_CHAR':
    case 'BAD_INDENT':
    case 'UNEXPECTED_TOKEN':
      return {
        code: 'not-yaml',
        range,
        message: `This is not YAML: ${plainWords(error.message)}`,
        advice: 'Put a value with characters such as { [ ] } , # : in quotes.',
      };
    default:
      return {
        code: 'not-yaml',
        range,
        message: `This is not YAML: ${plainWords(error.message)}`,
      };
  }
}

function tooDeep(range: Range): Problem {
  return { code: 'file-too-big', range, message: `Files can be nested ${MAX_DEPTH} levels deep at most` };
}

function plainWords(message: string): string {
  return message.charAt(0).toLowerCase() + message.slice(1);
}

function endOfLine(text: string, from: number): number {
  const end = text.indexOf('\n', from);
  return end < 0 ? text.length : end;
}

class TreeBuilder {
  private aliases = 0;
  private nodes = 0;
  constructor(
    private readonly file: SourceFile,
    private readonly document: Parsed,
    private readonly report: (problem: Problem) => void,
  ) {}

  build(node: unknown, depth: number): YamlNode {
    const range = rangeOf(node);
    if (depth > MAX_DEPTH) {
      throw new Unreadable(tooDeep(range));
    }
    // Aliases make a short file into a huge tree; what counts is what they come to.
    if (++this.nodes > MAX_NODES) {
      throw new Unreadable({
        code: 'over-limit',
        range,
        message: 'The aliases of this file expand to more than 500,000 values',
      });
    }
    this.refuseTag(node, range);
    if (isAlias(node)) {
      if (++this.aliases > MAX_ALIASES) {
        throw new Unreadable({
          code: 'over-limit',
          range,
          message: `A file can have at most ${MAX_ALIASES} aliases`,
        });
      }
      const target = node.resolve(this.document);
      if (target) return this.build(target, depth);
      const advice = 'An alias names an earlier anchor; a value that begins with * needs quotes.';
      this.report({ code: 'not-yaml', range, message: `There is no anchor "${node.source}"`, advice });
      return this.scalar(undefined, range);
    }
    if (isMap(node)) {
      const entries = this.entries(node.items as { key: unknown; value: unknown }[], range, depth);
      return { kind: 'map', ...(node.flow ? { flow: true } : {}), range, entries };
    }
    if (isSeq(node))
      return {
        kind: 'list',
        ...(node.flow ? { flow: true as const } : {}),
        range,
        items: node.items.map((item) => this.build(item ?? null, depth + 1)),
      };
    return this.scalar(node, range);
  }

  private refuseTag(node: unknown, range: Range): void {
    const tag = (node as { tag?: string } | null)?.tag;
    if (tag === undefined || tag.startsWith('tag:yaml.org,2002:')) return;
    this.report(notAllowed(range, `YAML reads "${tag}" as a tag`, 'Put the value in quotes.'));
  }

  private entries(
    pairs: readonly { key: unknown; value: unknown }[],
    parent: Range,
    depth: number,
  ): readonly YamlEntry[] {
    const entries: YamlEntry[] = [];
    const seen = new Set<string>();
    for (const { key, value } of pairs) {
      const keyRange = rangeOf(key);
      if (!isScalar(key)) {
        this.report(
          notAllowed(
            keyRange[1] > 0 ? keyRange : parent,
            'A key must be a string',
            'Put a value that begins with { or [ in quotes.',
          ),
        );
        continue;
      }
      const name = typeof key.value === 'string' ? key.value : (key.source ?? String(key.value));
      if (name === '<<') {
        this.report(
          notAllowed(
            keyRange,
            'Merge keys are not supported',
            'Write the keys out, or put what is shared under the API.',
          ),
        );
        continue;
      }
      if (seen.has(name)) {
        const advice = 'Merge the two into one.';
        this.report({
          code: 'duplicate-key',
          range: keyRange,
          message: `Duplicate key "${name}"`,
          advice,
        });
        continue;
      }
      seen.add(name);
      const [from, to] = rangeOf(value);
      const isEmpty = value === null || value === undefined || (isScalar(value) && from === to);
      const built = isEmpty ? this.scalar(undefined, [keyRange[1], keyRange[1]]) : this.build(value, depth + 1);
      entries.push({ key: name, keyRange, value: built });
    }
    return entries;
  }

  private scalar(node: unknown, range: Range): YamlScalar {
    const plain = !isScalar(node) || node.type === 'PLAIN' || node.type === undefined;
    const text = !isScalar(node) ? '' : plain ? (node.source ?? '') : String(node.value);
    return scalarNode(this.file, range, text, plain);
  }
}

/** From where a node begins to where its value ends; comments behind it are not part of it. */
function rangeOf(node: unknown): Range {
  const range = (node as { range?: readonly number[] } | null)?.range;
  return range ? [range[0]!, range[1]!] : [0, 0];
}
