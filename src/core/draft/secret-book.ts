import { environmentName } from '../chain/secret-words.ts';

/** A secret that was found in a sample: its name in `secrets.env`, and its value; none of a placeholder of documentation. */
export type FoundSecret = Readonly<{ name: string; value: string | undefined }>;

/** The secrets of a draft: a value that is known already keeps its name, a new one gets a name that is free. */
export class SecretBook {
  readonly found: FoundSecret[] = [];
  private readonly byValue: Map<string, string>;
  private readonly names: Set<string>;

  /** `known` are those of the project, by their values. */
  constructor(known: ReadonlyMap<string, string>) {
    this.byValue = new Map(known);
    this.names = new Set(known.values());
  }

  /** The name of a known secret that a text is. */
  nameOf(value: string): string | undefined {
    return this.byValue.get(value);
  }

  /** The name under which a value stands in `secrets.env`, made of words such as the api's and the header's. */
  add(value: string, words: readonly string[]): string {
    const known = this.byValue.get(value);
    if (known !== undefined) return known;
    const name = this.free(words);
    this.byValue.set(value, name);
    this.found.push({ name, value });
    return name;
  }

  /** The name of a secret whose value the sample does not say. */
  missing(words: readonly string[]): string {
    const plain = nameOf(words);
    this.missingNamed(plain);
    return plain;
  }

  /** A secret of this name is needed, and has no value yet. */
  missingNamed(name: string): void {
    if (this.names.has(name)) return;
    this.names.add(name);
    this.found.push({ name, value: undefined });
  }

  /** The name that words make. */
  nameFor(words: readonly string[]): string {
    return nameOf(words);
  }

  private free(words: readonly string[]): string {
    const plain = nameOf(words);
    let name = plain;
    for (let i = 2; this.names.has(name); i++) name = `${plain}_${i}`;
    this.names.add(name);
    return name;
  }
}

function nameOf(words: readonly string[]): string {
  const parts = words.map((word) => environmentName(word.replace(/([a-z0-9])([A-Z])/g, '$1_$2')));
  // `HARBOUR_KEY` of a header `harbour-key` at the api harbour.
  const [first = '', ...rest] = parts.map((part) => part.replace(/^_+|_+$/g, ''));
  const joined = rest.map((part) => (part.startsWith(`${first}_`) ? part.slice(first.length + 1) : part));
  return [first, ...joined]
    .filter((part) => part !== '')
    .join('_')
    .replace(/^(?=\d)/, '_');
}
