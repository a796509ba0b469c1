import type * as z from 'zod';
import type { Placed } from '../../schema/shape.ts';
import type { YamlMap } from '../../yaml/tree.ts';
import type { Step } from '../model.ts';

/** A kind of step as its own file describes it: what every kind may say (`when`, `about`) is read for it. */
type OwnPart<S> = S extends Step ? Omit<S, 'when'> : never;

/** The schema of a list of steps, for kinds that hold others. */
export type StepList = () => z.ZodType<readonly Step[]>;

/** How a kind of step is read from a file: one file, one entry in the list. The engine has its other half. */
export type StepReader<S extends z.core.$ZodLooseShape = z.core.$ZodLooseShape> = Readonly<{
  /** The key by which the kind is known; what it holds is the step's own. */
  key: string;
  /** One sentence for the reference. */
  about: string;
  /** Its keys, made when the first file is read. */
  shape(steps: StepList): S;
  read(given: z.output<z.ZodObject<S>>, placed: Placed<YamlMap>): OwnPart<Step>;
}>;

/** Says what a reader's shape is, so that `read` knows what it is given. */
export function stepReader<S extends z.core.$ZodLooseShape>(reader: StepReader<S>): StepReader {
  return reader as unknown as StepReader;
}
