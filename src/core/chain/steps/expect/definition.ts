import type * as z from 'zod';
import { word } from '../../../schema/leaves.ts';
import type { Expectation } from '../../../http/expectation.ts';

/** A form of expectation that is a mapping: one file here, one entry in the list. The engine has its other half. */
export type ExpectationForm = Readonly<{
  key: Expectation['form'];
  /** One sentence for the reference. */
  about: string;
  /** Made when the first one is read. */
  schema(): z.ZodType<Expectation>;
}>;

/** What every form may say. */
export const because = () => word('a reason').optional().describe('The reason, shown when the expectation fails.');
