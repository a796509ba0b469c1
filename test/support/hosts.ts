import { createHash } from 'node:crypto';
import { inputHost, StepHost, type RunHost } from '../../src/core/engine/host.ts';
import type { OpenedFile } from '../../src/core/http/message.ts';
import type { LinesFile, RowsFile } from '../../src/core/ports.ts';
import { whyProtected } from '../../src/core/value/file-names.ts';
import type { FileRefused, Host } from '../../src/core/expression/host.ts';
import { readXml } from '../../src/core/value/xml.ts';

let reads = 0;
/** A file too large to be held, which is another one each time it is read. */
const changing: OpenedFile = {
  name: 'changing.bin',
  size: 2 * 1024 * 1024,
  pieces: () => [new Uint8Array(2 * 1024 * 1024).fill(reads++)],
  chunks: async function* () {},
};

/** Opens files of a test by their names. */
export function openerOf(files: Readonly<Record<string, string>>): (path: string) => OpenedFile {
  return (path) => {
    const text = files[path];
    if (text === undefined) return { message: `The file ${path} is not there` };
    const bytes = new TextEncoder().encode(text);
    return {
      name: path,
      size: bytes.length,
      pieces: () => [bytes],
      chunks: async function* () {
        yield bytes;
      },
    };
  };
}

/** A file of rows that is held in memory. */
export function memoryFile(path: string, before?: string | Uint8Array): RowsFile & { text(): string | undefined } {
  let content: Buffer | undefined = before === undefined ? undefined : Buffer.from(before as string);
  let changes = 0;
  const put = (bytes: Buffer) => {
    content = bytes;
    changes++;
  };
  return {
    path,
    read: (from, to) => content?.subarray(from, to),
    text: () => content?.toString(),
    size: () => content?.length ?? 0,
    stamp: () => String(changes),
    append: (text, { encode }) => put(Buffer.concat([content ?? Buffer.alloc(0), Buffer.from(encode(text) as string)])),
    cut: (size) => put(content!.subarray(0, size)),
    replace: (text, { encode }) => put(Buffer.from(encode(text) as string)),
    withLock: (work) => work(),
  };
}

/** Lines that are held in memory, and given back a few at a time; those with `hush` in them are secret. */
export function memoryLines(): LinesFile & { lines: string[] } {
  const lines: string[] = [];
  return {
    lines,
    add: (line) => (lines.push(line.includes('hush') ? '' : line), !line.includes('hush')),
    finish: () => ({ file: 'gather-1.ndjson', size: lines.join('\n').length, sha256: '' }),
    pieces: async function* () {
      for (let at = 0; at < lines.length; at += 7) yield lines.slice(at, at + 7);
    },
  };
}

/** A host whose clock stands, whose seed is known and whose only file is `notes.txt`. */
export const testRunHost: RunHost = {
  zone: 'Europe/Lisbon',
  nowMs: () => Date.parse('2026-05-23T10:00:00Z'),
  seed: 'test',
  randomness: { bytes: (count) => new Uint8Array(count).fill(7) },
  openFile: (path) => (path === 'changing.bin' ? changing : { message: `The file ${path} is not there` }),
  namedFiles: new Set(),
  saveFile: (path) => ({ message: `The file ${path} would be outside the project` }),
  rowsFile: (path) =>
    path.startsWith('..')
      ? { message: `The file ${path} would be outside the project` }
      : memoryFile(path, path.startsWith('kept') ? 'a\n1\n' : undefined),
  openLines: memoryLines,
  keyedHash: (text) => createHash('sha256').update(text).digest('hex').slice(0, 16),
  inProject: ({ path }) => path,
  readProjectFile: (path) => ({ message: `The file ${path} is not there` }),
  contractOf: (file) => ({ file, line: undefined, message: `The file ${file} is not there`, advice: undefined }),
  beside: () => testRunHost,
  readFile: (path) =>
    path === 'notes.txt'
      ? { bytes: new TextEncoder().encode('moored at N1') }
      : { message: `The file ${path} is not there`, advice: 'Paths are relative to the chain file.' },
};

export const testInputs = () => inputHost(testRunHost, 'inputs');

export const testStep = (key = 'test'): StepHost => new StepHost(testRunHost, key);

const TIDES =
  '<tides port="Kvitnes" xmlns:k="urn:k"><tide at="06:10"><k:metres>1.9</k:metres></tide><tide at="12:30"/></tides>';

/** The same beside a response with a Link header and an XML body. */
export function testHost(xml = TIDES): Host {
  const read = readXml(xml);
  if (!('document' in read)) throw new Error(read.message);
  return testStep().beside({
    url: 'https://harbour.example/v1/arrivals',
    links: '</v1/arrivals?page=2>; rel="next"',
    document: read.document,
    namespaces: { k: 'urn:k' },
  });
}

/** What rules may look at in tests: one file, and nowhere to write but below the project. */
export const testAround = {
  readFile: testRunHost.readFile,
  openFile: testRunHost.openFile,
  unwritable: (path: string): FileRefused | undefined => {
    if (path.startsWith('/')) return { message: `The file ${path} would be outside the project` };
    const why = whyProtected(path);
    return why === undefined ? undefined : { message: `${path}: ${why}`, code: 'file-protected' };
  },
  readNamedFile: testRunHost.readProjectFile,
  accepts: false,
  contractOf: testRunHost.contractOf,
  secretNamed: (): string | undefined => undefined,
};
