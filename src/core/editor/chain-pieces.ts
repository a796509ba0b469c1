import { readChain } from '../chain/chain-file.ts';
import type { Chain } from '../chain/model.ts';
import type { NameInfo, Names } from '../chain/names.ts';
import { walkChain } from '../chain/walk.ts';

/** A chain file in pieces that are read each for itself: everything but the steps, and each step of the outer lists. */
type Piece = Readonly<{ list: 'steps' | 'cleanup' | 'frame'; from: number; text: string }>;

/** A piece as it was read: its model, and the names that it leaves for what follows. */
type ReadPiece = Readonly<{ chain: Chain | undefined; names: Names }>;

/** What is known at a place of a file: the piece there as a chain with the inputs of the file, and the names of the steps before. */
type PartOfChain = Readonly<{ chain: Chain; known: Names }>;

const NOWHERE = { endpointOf: () => undefined };

/**
 * The model of a file that is being written, as far as a place in it needs it. A piece is read only when its text has changed:
 * what is typed in one step of five hundred costs the reading of that step. Places in this model mean nothing.
 */
export class ChainPieces {
  private known = new Map<string, ReadPiece>();

  /** What is known at a place, with `instead` in place of the piece in which it is. `path` is that of the file. */
  at(path: string, text: string, place: number, instead: (from: number) => string): PartOfChain {
    const next = new Map<string, ReadPiece>();
    const read = (source: string): ReadPiece => {
      let piece = this.known.get(source);
      if (!piece) {
        const { chain } = readChain({ path, text: source });
        piece = { chain, names: chain ? new Map(walkChain(chain, NOWHERE, [])) : new Map() };
      }
      next.set(source, piece);
      return piece;
    };
    let frame = emptyChain(path);
    const known = new Map<string, NameInfo>();
    for (const { list, text: own, from } of piecesOf(text)) {
      const isHere = place >= from && place <= from + own.length;
      const isBehind = from > place;
      if (list === 'frame') {
        const chain = isHere ? readChain({ path, text: framed(instead(from)) }).chain : read(framed(own)).chain;
        frame = merged(frame, chain);
      } else if (isHere) {
        const { chain } = readChain({ path, text: `steps:\n${instead(from)}` });
        frame = { ...frame, [list]: chain?.steps ?? [] };
      } else {
        const { names } = read(`steps:\n${own}`);
        if (!isBehind) for (const [name, info] of names) known.set(name, info);
      }
    }
    // What was read and is not there any more is forgotten.
    this.known = next;
    return { chain: frame, known };
  }
}

/** A key of the file beside its steps, as a file of its own. */
function framed(text: string): string {
  return `${text}\nsteps: []\n`;
}

/** The keys of a chain file stand in front of its steps and behind them. */
function merged(before: Chain, piece: Chain | undefined): Chain {
  if (!piece) return before;
  return {
    ...before,
    api: before.api ?? piece.api,
    inputs: [...before.inputs, ...piece.inputs],
    outputs: [...before.outputs, ...piece.outputs],
  };
}

function emptyChain(path: string): Chain {
  const file = { path, text: '' };
  return {
    file,
    name: '',
    about: undefined,
    tags: [],
    api: undefined,
    inputs: [],
    steps: [],
    cleanup: [],
    outputs: [],
  };
}

/** The lines of a file by what they belong to. */
function piecesOf(text: string): readonly Piece[] {
  const pieces: Piece[] = [];
  let list: Piece['list'] = 'frame';
  let dash: number | undefined;
  let begin = 0;
  const end = (at: number) => {
    if (at > begin) pieces.push({ list, from: begin, text: text.slice(begin, at) });
    begin = at;
  };
  for (let at = 0; at < text.length;) {
    const next = text.indexOf('\n', at) + 1 || text.length;
    const line = text.slice(at, next);
    const key = /^([A-Za-z][\w-]*)\s*:/.exec(line)?.[1];
    const column = list === 'frame' ? undefined : /^( *)-(\s|$)/.exec(line)?.[1]?.length;
    if (key !== undefined) {
      end(at);
      list = listBegunBy(key, line);
      dash = undefined;
      // The line of the key itself belongs to no step.
      if (list !== 'frame') begin = next;
    } else if (column !== undefined && column === (dash ??= column)) end(at);
    at = next;
  }
  end(text.length);
  return pieces;
}

/** Steps are read each for itself where they stand below their key. */
function listBegunBy(key: string, line: string): Piece['list'] {
  const isBlock = /^[\w-]+\s*:\s*(#.*)?$/.test(line.trimEnd());
  return isBlock && (key === 'steps' || key === 'cleanup') ? key : 'frame';
}
