import { Seen } from './seen.ts';
import { type ProblemRecord } from '../journal/records.ts';
import type { EachStep } from '../chain/model.ts';
import { diagnosticIn, wholeOf } from '../diagnostics/source.ts';
import { evaluate } from '../expression/evaluate.ts';
import type { Frame } from '../expression/frame.ts';
import { crypto } from '../packages.ts';
import { canonicalJson } from '../value/canonical.ts';
import { textOf } from '../value/text.ts';
import { showValue } from '../value/show.ts';
import { isList, isObject, piecesOf, type Items, type Value } from '../value/value.ts';
import { problemRecord } from './places.ts';

/** What an item is matched by when lists change, and what it is called. */
export type Identity = Readonly<{
  id: string;
  label?: string;
  /** The same on every machine, and told to nobody: a hash by the key of a project stands for what is secret elsewhere. */
  known: string;
}>;

/** One item at its place in the list. */
export type ItemAt = Readonly<{ index: number; value: Value }> & Identity;

/**
 * The identities of a loop's items: what each is known by, else the hash of its canonical JSON (RFC 8785). Equal ones are
 * told apart by their order; two of one `identified-by` are an error.
 */
export class Identities {
  private readonly seen = new Seen();

  constructor(
    private readonly step: EachStep,
    private readonly frameOf: (item: ItemAt) => Frame,
    /** Gives a hash by the key of the project where items are secret: neither they nor a digest of them are told. */
    private readonly keyedHash: ((text: string) => string) | undefined,
    /** What items are called that nothing else identifies. */
    private readonly labels: (index: number) => string | undefined,
  ) {}

  /** What is wrong with what items are known by: asked before the first of them runs. */
  async problem(items: Items): Promise<ProblemRecord | undefined> {
    if (!this.step.identifiedBy) return undefined;
    const seen = new Seen();
    let index = 0;
    for await (const piece of piecesOf(items)) {
      for (const value of piece) {
        const known = this.knownAs(index, value);
        if ('problem' in known) return this.problemAt(index, known.problem);
        const before = seen.swap(digestOf(known.label), (place) => place || index + 1);
        if (before > 0) {
          const by = this.keyedHash ? 'the same value' : showValue(known.label);
          const message = `Items ${before} and ${index + 1} are both identified by ${by}`;
          return this.problemAt(index, { code: 'duplicate-item', message });
        }
        index++;
      }
    }
    return undefined;
  }

  /** The identity of the next item; they are asked for in order, each once. */
  next(index: number, value: Value): Identity {
    if (this.step.identifiedBy) {
      const known = this.knownAs(index, value);
      const label = 'label' in known ? known.label : '';
      if (this.keyedHash) return { id: this.keyedHash(label), known: label };
      // Braces stand around it in keys.
      return { id: label.replace(/[{}]/g, encodeURIComponent), label, known: label };
    }
    // A loop that only gathers sends nothing that could be matched.
    if (this.step.steps.length === 0) return NO_IDENTITY;
    const content = canonicalJson(value);
    const digest = digestOf(content);
    const before = this.seen.swap(digest, (count) => count + 1);
    const own = digest.toString('hex', 0, 8);
    const id = this.keyedHash?.(content) ?? own;
    const behind = before === 0 ? '' : `~${before + 1}`;
    const label = this.keyedHash ? undefined : this.labels(index);
    return { id: id + behind, known: own + behind, ...(label === undefined ? {} : { label }) };
  }

  private knownAs(index: number, item: Value): Readonly<{ label: string }> | Readonly<{ problem: Wrong }> {
    const { tree, source } = this.step.identifiedBy!;
    const { value } = evaluate(tree!, this.frameOf({ index, value: item, ...NO_IDENTITY }));
    const text = value === undefined || value === null || isList(value) || isObject(value) ? undefined : textOf(value);
    if (typeof text === 'string') return { label: text };
    const message =
      value === undefined
        ? `${source.text} found nothing`
        : `${source.text} is ${showValue(value)}, which cannot identify an item`;
    return { problem: { code: 'found-nothing', message } };
  }

  private problemAt(index: number, { code, message }: Wrong): ProblemRecord {
    const { source } = this.step.identifiedBy!;
    const advice = 'identified-by must be a string or number that differs from item to item.';
    const told = code === 'found-nothing' ? `${message}, for item ${index + 1}` : message;
    return problemRecord(diagnosticIn(source, { code, range: wholeOf(source), message: told, advice }));
  }
}

const NO_IDENTITY: Identity = { id: '', known: '' };

type Wrong = Readonly<{ code: 'duplicate-item' | 'found-nothing'; message: string }>;

function digestOf(text: string): Buffer {
  return crypto().hash('sha256', text, 'buffer');
}
