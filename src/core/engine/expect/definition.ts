import type { ExpectRecord } from '../../journal/records.ts';
import type { Expectation } from '../../http/expectation.ts';
import type { HttpRequest, HttpResponse } from '../../http/message.ts';
import type { Frame } from '../../expression/frame.ts';
import type { Endpoint } from '../../http/endpoint.ts';
import type { StepFrame } from '../frame.ts';

/** What an expectation is judged on. */
export type Judging = Readonly<{
  frame: Frame;
  /** The number of the exchange whose response it is, where there is one. */
  exchange: number | undefined;
  endpoint: Endpoint | undefined;
  /** The response itself, and the request that it answers; absent where values are judged. */
  answered?: Readonly<{ request: HttpRequest; response: HttpResponse; isJson: boolean }>;
  context: StepFrame;
}>;

/** What judging adds to the record of an expectation: whether it held, and why not. */
export type Judged = Partial<ExpectRecord> & Readonly<{ passed: boolean }>;

/** How a form of expectation is judged: one file, one entry in the list. The chain's folder has its other half. */
export type Judge<F extends Expectation['form']> = (
  expectation: Extract<Expectation, { form: F }>,
  judging: Judging,
) => Judged;
