import { writtenPath } from '../path/normalized.ts';
import { nameFor } from '../path/propose.ts';
import { eachScalar } from './json-text.ts';

/** Where a value of a later request came from: the call whose response held it, and the name that keeps it. */
export type Link = Readonly<{
  name: string;
  call: string;
  expression: string;
  /** Other calls whose responses held it too. */
  others: number;
  /** Whether the chain keeps it already. */
  isKept: boolean;
}>;

/** A response whose values later requests may use. */
export type KnownResponse = Readonly<{ call: string; body: unknown }>;

/** Shorter ones are likely to be equal by chance. */
function isLinkable(text: string): boolean {
  return /^-?\d+(?:\.\d+)?$/.test(text) ? text.replace(/\D/g, '').length >= 5 : text.length >= 6;
}

type Place = { call: string; keys: readonly (string | number)[]; calls: Set<string> };

/** The values of earlier responses that later requests hold: of all others nothing is kept. */
export class Links {
  private readonly places = new Map<string, Place>();
  private readonly made = new Map<string, Link>();
  /** Of names that stand for no member. */
  private number = 2;
  /** What is longer than all wanted values is not looked up: that would read the whole of it. */
  private readonly longest: number;

  constructor(
    /** Values that requests of the draft hold. */
    private readonly wanted: ReadonlySet<string>,
    /** Names that are taken in the chain. */
    private readonly names: Set<string>,
    /** What the chain keeps already: values by name, with the call that keeps them. */
    kept: readonly Readonly<{ name: string; call: string; text: string }>[] = [],
  ) {
    this.longest = [...wanted].reduce((longest, { length }) => Math.max(longest, length), 0);
    for (const { name, call, text } of kept)
      this.made.set(text, { name, call, expression: '', others: 0, isKept: true });
  }

  /** Takes in a response; what comes later may hold its values. The nearest counts. */
  add({ call, body }: KnownResponse): void {
    eachScalar(body, (text, keys) => {
      if (text.length > this.longest || !this.wanted.has(text) || !isLinkable(text)) return;
      const known = this.places.get(text);
      // Of one response the first place.
      if (known && known.call === call) return;
      const calls = known?.calls ?? new Set<string>();
      calls.add(call);
      this.places.set(text, { call, keys: [...keys], calls });
    });
  }

  /** The link of a value; nothing when no earlier response held it. A value has one name, wherever it is used. */
  of(text: string, asSecret = false): Link | undefined {
    if (!isLinkable(text)) return undefined;
    const made = this.made.get(text);
    if (made) return made;
    const place = this.places.get(text);
    if (!place) return undefined;
    const path = writtenPath(place.keys);
    const link: Link = {
      name: this.free(nameFor({ keys: place.keys } as Parameters<typeof nameFor>[0]), place.call),
      call: place.call,
      expression: asSecret ? `secret(${path})` : path,
      others: place.calls.size - 1,
      isKept: false,
    };
    this.made.set(text, link);
    return link;
  }

  /** Every link that was used and must still be kept. */
  toKeep(): readonly Link[] {
    return [...this.made.values()].filter(({ isKept }) => !isKept);
  }

  private free(plain: string, call: string): string {
    const candidates = [plain, `${call.replace(/\W+/g, '_')}_${plain}`];
    let name = candidates.find((each) => /^[A-Za-z_]\w*$/.test(each) && !this.names.has(each));
    for (; name === undefined; this.number++)
      if (!this.names.has(`value_${this.number}`)) name = `value_${this.number}`;
    this.names.add(name);
    return name;
  }
}
