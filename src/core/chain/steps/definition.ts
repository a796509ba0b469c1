import type { YamlMap } from '../../yaml/tree.ts';
import type { Placed } from '../../schema/shape.ts';
import type { Step } from '../model.ts';

/** How a kind of step is read from a file: one file, one entry in the list. The engine has its other half. */
export type StepReader = Readonly<{
  /** The key by which the kind is known; what it holds is the step's own. */
  key: string;
  read(placed: Placed<YamlMap>): Step;
}>;
