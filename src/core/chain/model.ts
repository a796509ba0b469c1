import type { Range } from '../diagnostics/problem.ts';
import type { Source, SourceFile } from '../diagnostics/source.ts';
import type { RequestTemplate } from '../http/endpoint.ts';
import type { Timeouts } from '../http/message.ts';
import type { Expression, Named } from '../schema/leaves.ts';
import type { TextTemplate, ValueTemplate } from '../template/template.ts';

export const TAKE_TYPES = ['text', 'integer', 'number', 'boolean', 'date'] as const;
export type TakeType = (typeof TAKE_TYPES)[number];

/** One input of a chain. It is required unless it has a default or is optional. */
export type Take = Readonly<{
  file: SourceFile;
  name: string;
  nameRange: Range;
  type: TakeType;
  default: ValueTemplate | undefined;
  optional: boolean;
  about: string | undefined;
}>;

/** What must hold of a response, and why if the file says so. */
export type Expectation = Readonly<{ expression: Expression; because: string | undefined }>;

/** A step that sends a request and reads the response. */
export type CallStep = Readonly<{
  kind: 'call';
  name: string;
  nameSource: Source;
  api: Source | undefined;
  request: RequestTemplate;
  timeouts: Timeouts | undefined;
  expect: readonly Expectation[];
  keep: Named<Expression>;
}>;

/** A step of which no sense could be made; what it would have bound is known all the same, so that it misleads no check. */
export type BrokenStep = Readonly<{ kind: 'broken'; binds: readonly string[] }>;

/** A step that computes variables. */
export type LetStep = Readonly<{ kind: 'let'; names: Named<Expression> }>;

/** A step that says a line. */
export type SayStep = Readonly<{ kind: 'say'; text: TextTemplate }>;

export type Step = CallStep | LetStep | SayStep | BrokenStep;

/** One chain file. */
export type Chain = Readonly<{
  file: SourceFile;
  name: string;
  about: string | undefined;
  api: Source | undefined;
  takes: readonly Take[];
  steps: readonly Step[];
  gives: Named<Expression>;
}>;

/** The address of a step, counted from 1: `3/watch-clearance`. */
export function addressOf(index: number, name: string): string {
  return `${index + 1}/${name}`;
}
