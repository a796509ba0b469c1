import type { Source, SourceFile } from '../diagnostics/source.ts';
import type { FileRead, FileRefused, Host, ResponseHost } from '../expression/host.ts';
import type { Problem } from '../diagnostics/problem.ts';
import type { Node } from '../expression/model.ts';
import type { Json } from '../journal/events.ts';
import { toStored } from '../journal/stored.ts';
import { crypto } from '../packages.ts';
import type { Contract } from '../contract/contract.ts';
import type { DescriptionProblem } from '../contract/description.ts';
import type { OpenedFile } from '../http/message.ts';
import type { InputHost } from '../chain/inputs.ts';
import type { OpenLines, Randomness, RowsFile, SavingFile } from '../ports.ts';

/** What a run gives its expressions: its zone, its clock and seed, and the files of its project. */
export type RunHost = Readonly<{
  zone: string;
  /** The run's clock in milliseconds since 1970, as `--now` set it or as the machine says. */
  nowMs(): number;
  seed: string;
  randomness: Randomness;
  readFile(path: string): FileRead;
  /** The same for a chain file elsewhere, whose paths are relative to its own folder. */
  beside(file: SourceFile): RunHost;
  /** Opens a file that a request sends; a path relative to the chain file. */
  openFile(path: string): OpenedFile;
  /** Files that the command line named, as absolute paths: they may be read wherever they are. */
  namedFiles: ReadonlySet<string>;
  /** Begins a file for a response; inside the project folder, a path relative to the chain file. */
  saveFile(path: string): SavingFile | FileRefused;
  /** A file of rows, inside the project folder; a path relative to the chain file. */
  rowsFile(path: string): RowsFile | FileRefused;
  /** Begins a file of lines, for a list that is too long to hold. */
  openLines: OpenLines;
  /** A fingerprint of a text, by the project's own key. */
  keyedHash(text: string): string;
  /** A file's place in the project, the same wherever one stands. */
  inProject(file: SourceFile): string;
  /** The description that an API is held to, by the name of its file in the project file. */
  contractOf(file: string): Contract | DescriptionProblem;
  /** Reads a certificate or key that the project file names, wherever it is. */
  readProjectFile(path: string): FileRead;
}>;

/** What an expression of a step met, by the tree of the whole expression. */
type StepNote = Readonly<{ at: Node | Source; note: Problem }>;

/** A value that a volatile function drew, and the function. */
export type Drawn = [name: string, value: Json];

/**
 * The host of one step. Each draw depends on the seed, the step and its number within the step alone, never on time, so
 * that steps at the same time draw what they would draw one after another. The clock is read once for all of a step.
 */
export class StepHost implements Host {
  readonly drew: Drawn[] = [];
  readonly response: ResponseHost | undefined;
  /** What its expressions met that is worth knowing although they have a value. */
  readonly notes: StepNote[] = [];
  private count = 0;
  private now: number | undefined;

  constructor(
    private readonly run: RunHost,
    private readonly key: string,
  ) {}

  get zone(): string {
    return this.run.zone;
  }

  drawn: Host['drawn'] = (name, make) => {
    const draw = this.count++;
    let used = 0;
    const value = make({
      bytes: (count) => seeded(`${this.run.seed}\n${this.key}\n${draw}\n${used++}`, count),
      nowMs: (this.now ??= this.run.nowMs()),
    });
    if (draw < this.drew.length) return value;
    const stored = toStored(value);
    this.drew.push([name, 'json' in stored ? stored.json : 'text' in stored ? stored.text : null]);
    return value;
  };

  /** Notes of an expression, or of a text of the file. */
  noted(at: Node | Source, notes: readonly Problem[]): void {
    this.notes.push(...notes.map((note) => ({ at, note })));
  }

  get unrecorded(): Host {
    return this.unrecordedWith(undefined);
  }

  readFile(path: string): FileRead {
    return this.run.readFile(path);
  }

  /** The same for expressions that read a response. */
  beside(response: ResponseHost): Host {
    return new ResponseStepHost(this, response);
  }

  /** Draws again what was drawn before, for a further page or look of the same step. */
  beginAgain(): void {
    this.count = 0;
  }

  /** Bytes that are the same for every try of a step, for what no expression draws: a boundary, an idempotency key. */
  fixedBytes(what: string, count: number): Uint8Array {
    return seeded(`${this.run.seed}\n${this.key}\n${what}`, count);
  }

  /** Draws from the system's own generator, and puts nothing down. */
  unrecordedWith(response: ResponseHost | undefined): Host {
    const { zone, run } = this;
    const { bytes } = run.randomness;
    const unrecorded: Host = {
      zone,
      drawn: (_name, make) => make({ bytes, nowMs: (this.now ??= run.nowMs()) }),
      get unrecorded() {
        return unrecorded;
      },
      response,
      readFile: (path: string) => run.readFile(path),
    };
    return unrecorded;
  }
}

/** The host of a step for expressions that read a response. */
class ResponseStepHost implements Host {
  constructor(
    private readonly step: StepHost,
    readonly response: ResponseHost,
  ) {}

  get zone(): string {
    return this.step.zone;
  }

  get drawn(): Host['drawn'] {
    return this.step.drawn;
  }

  get unrecorded(): Host {
    return this.step.unrecordedWith(this.response);
  }

  readFile(path: string): FileRead {
    return this.step.readFile(path);
  }

  noted(tree: Node, notes: readonly Problem[]): void {
    this.step.noted(tree, notes);
  }
}

/** What the inputs of a chain are read with. */
export function inputHost(run: RunHost, key: string): InputHost {
  const expressions = new StepHost(run, key);
  const openTable = (name: string) => {
    const file = run.openFile(name);
    // What a default names keeps the name that stands there, whose end says what it is.
    return 'message' in file ? file : { name, chunks: () => file.chunks() };
  };
  return { expressions, openTable, openLines: run.openLines };
}

/** Bytes that a text determines: SHA-256 of it, as often as needed. */
function seeded(text: string, count: number): Uint8Array {
  const bytes = new Uint8Array(count);
  for (let filled = 0; filled < count; filled += 32) {
    const block = crypto().createHash('sha256').update(`${text}\n${filled}`).digest();
    bytes.set(block.subarray(0, count - filled), filled);
  }
  return bytes;
}
