import { readChain } from '../chain/chain-file.ts';
import type { Chain, Step } from '../chain/model.ts';

/** A chain file in pieces that are read each for itself: everything but the steps, and each step of the outer lists. */
type Piece = Readonly<{ list: 'steps' | 'cleanup' | 'frame'; from: number; text: string }>;

/**
 * The model of a file that is being written. A piece is read again only when its text has changed: what is typed in one
 * step of five hundred costs the reading of that step. Places in this model are those of pieces, and mean nothing.
 */
export class ChainPieces {
  private known = new Map<string, Chain | undefined>();

  /** The model with `instead` in place of the piece in which a place is. `path` is that of the file. */
  modelOf(
    path: string,
    text: string,
    place: number,
    instead: (piece: Readonly<{ from: number; text: string }>) => string,
  ): Chain {
    const next = new Map<string, Chain | undefined>();
    const read = (source: string, isLasting: boolean): Chain | undefined => {
      const chain = this.known.has(source) ? this.known.get(source) : readChain({ path, text: source }).chain;
      if (isLasting) next.set(source, chain);
      return chain;
    };
    const pieces = piecesOf(text);
    let frame: Chain | undefined;
    const steps: Step[] = [];
    const cleanup: Step[] = [];
    pieces.forEach(({ list, from, text: own }, i) => {
      const isHere = place >= from && (place < from + own.length || i === pieces.length - 1);
      const written = isHere ? instead({ from, text: own }) : own;
      if (list === 'frame') frame = merged(frame, read(`${written}\nsteps: []\n`, !isHere));
      else (list === 'steps' ? steps : cleanup).push(...(read(`steps:\n${written}`, !isHere)?.steps ?? []));
    });
    // What was read and is not there any more is forgotten, and so is what is being written.
    this.known = next;
    return { ...(frame ?? emptyChain(path)), steps, cleanup };
  }
}

/** The keys of a chain file stand in front of its steps and behind them. */
function merged(before: Chain | undefined, piece: Chain | undefined): Chain | undefined {
  if (!before || !piece) return before ?? piece;
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
