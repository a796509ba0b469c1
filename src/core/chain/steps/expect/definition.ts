import type * as z from 'zod';
import { expression, word } from '../../../schema/leaves.ts';
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

/** The value that is judged, where there is no response. */
export const of = () => expression('a value').optional().describe('In an expect step: the value that is judged.');

/** What every form may say. */
export const because = () => word('a reason').optional().describe('The reason, shown when the expectation fails.');
