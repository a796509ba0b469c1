import type * as z from 'zod';
import { word } from '../../../schema/leaves.ts';
import type { Expectation } from '../../../http/expectation.ts';
import type { At, Part } from '../../parts.ts';

/** A form of expectation that is a mapping: one file here, one entry in the list. The engine has its other half. */
export type ExpectationForm<F extends Form = Form> = Readonly<{
  key: F;
  /** One sentence for the reference. */
  about: string;
  /** Made when the first one is read. */
  schema(): z.ZodType<Expectation>;
  /** The expressions, texts and files that it holds. */
  parts(expectation: Extract<Expectation, { form: F }>, at: At): readonly Part[];
}>;

type Form = Expectation['form'];

/** What every form may say. */
export const because = () => word('a reason').optional().describe('The reason, shown when the expectation fails.');
