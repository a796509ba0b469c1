import type * as z from 'zod';
import type { Source } from '../../diagnostics/source.ts';
import type { Placed } from '../../schema/shape.ts';
import type { YamlMap } from '../../yaml/tree.ts';
import type { Step } from '../model.ts';
import type { Part } from '../parts.ts';

/** A kind of step as its own file describes it: what every kind may say (`when`, `once`, `about`) is read for it. */
type OwnPart<S> = S extends Step ? Omit<S, 'when' | 'once'> : never;

/** The schema of a list of steps, for kinds that hold others. */
type StepList = () => z.ZodType<readonly Step[]>;

/** Everything about a kind of step but how it is run: one file, one entry in the list. The engine has its other half. */
export type StepKind<K extends StepKey = StepKey, S extends z.core.$ZodLooseShape = z.core.$ZodLooseShape> = Readonly<{
  /** The key by which the kind is known; what it holds is the step's own. */
  key: K;
  /** One sentence for the reference. */
  about: string;
  /** Its keys, made when the first file is read. */
  shape(steps: StepList): S;
  read(given: z.output<z.ZodObject<S>>, placed: Placed<YamlMap>): OwnPart<Step & { kind: K }>;
  /** All that the step holds, in the order in which it comes into play; `when` stands before it. */
  parts(step: Step & { kind: K }): readonly Part[];
  /** What tells it from others of its kind in records: a name, or a file. */
  nameOf?(step: Step & { kind: K }): string;
  /** A text that shows where it stands; without one its first inner step does. */
  sourceOf?(step: Step & { kind: K }): Source | undefined;
}>;

/** The key of a kind of step, which is what its model calls it too. */
type StepKey = Exclude<Step['kind'], 'broken'>;

/** Says what a kind's shape is, so that `read` knows what it is given. */
export function stepKind<K extends StepKey, S extends z.core.$ZodLooseShape>(kind: StepKind<K, S>): StepKind {
  return kind as unknown as StepKind;
}
