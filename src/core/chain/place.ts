import type { Range } from '../diagnostics/problem.ts';
import type { Source, SourceFile } from '../diagnostics/source.ts';
import type { Node } from '../expression/model.ts';
import type { SecretLookup } from '../expression/secrecy.ts';
import type { Endpoint } from '../http/endpoint.ts';
import type { Expectation } from '../http/expectation.ts';
import type { TextTemplate } from '../template/template.ts';
import type { CallStep, Step, InputDefinition } from './model.ts';
import type { Names } from './names.ts';
import type { At } from './parts.ts';
import type { Expression } from '../schema/leaves.ts';

/** Where an expression or a text stands. */
export type Place = Readonly<{
  names: Names;
  /** The key of the file that it stands under. */
  key: string;
  /** Whether it is a placeholder in a text, where words need no quotes of their own around them. */
  placeholder: boolean;
  /** Whether it is a whole value that is left out when it is nothing because of an optional input. */
  leftOut: boolean;
  /** Whether it is in a response key of a call. */
  response: boolean;
  role: 'value' | 'condition';
  /** The call that it belongs to. */
  step: string | undefined;
  /** Reserved names that mean something there: `run` at the end, `request` and `gives` in credentials. */
  meanings: readonly string[];
  /** The api whose settings `setting.NAME` means there; `undefined` when that is not known. */
  endpoint: Endpoint | undefined;
  /** Names whose values are secret, and why. */
  secretNames: SecretLookup;
  /** Names that were kept inside a loop which ended before, and that loop. */
  gone: ReadonlyMap<string, string>;
  /** Conditions, as they are written, that hold wherever this runs. */
  under: readonly Condition[];
}>;

/** A condition that holds at a place, and its text. */
export type Condition = Readonly<{ tree: Node; text: string }>;

/** A name that is about to be bound, and the names that there are already. */
export type Binding = Readonly<{
  name: string;
  range: Range;
  file: SourceFile;
  names: Names;
  /** Names of the scopes around the one in which it is bound. */
  outer: ReadonlySet<string>;
  what: 'input' | 'keep' | 'let' | 'item' | 'gather' | 'carry';
}>;

/** What a rule wants to see. Each handler is called once for each thing of its sort, in the order of the file. */
export type Visitor = Readonly<{
  input?(input: InputDefinition): void;
  step?(step: Step, place: Place, after: Step | undefined): void;
  call?(step: CallStep, place: Place): void;
  expectation?(expectation: Expectation, place: Place): void;
  binding?(binding: Binding): void;
  expression?(tree: Node, source: Source, place: Place): void;
  text?(template: TextTemplate, place: Place): void;
  end?(): void;
}>;

/** What the walk needs to know of the surroundings. */
export type Surroundings = Readonly<{
  /** Where a call goes; without one, the chain's default api. */
  endpointOf(call?: CallStep): Endpoint | undefined;
  /** Names that steps before bind, where only a part of a chain is gone through. */
  known?: Names;
}>;

/** The place of a part in that of its step. */
export function placeAt(place: Place, { key = place.key, response = false, leftOut = false, means, only }: At): Place {
  const meanings = means ? (only ? means : [...place.meanings, ...means]) : place.meanings;
  return { ...place, key, response, leftOut, meanings };
}

/** The conditions of a place with one more. */
export function withCondition(outer: readonly Condition[], { tree, source }: Expression): readonly Condition[] {
  if (!tree) return outer;
  return [...outer, { tree, text: source.text.trim() }];
}

/** A place as most are. */
export const PLAIN = { placeholder: false, leftOut: false, response: false, role: 'value', step: undefined } as const;
