import type { Pause } from '../schema/measures.ts';
import type { Poll } from './poll.ts';
import type { VerifyRule } from './verify.ts';
import type { Range } from '../diagnostics/problem.ts';
import type { Source, SourceFile } from '../diagnostics/source.ts';
import type { RetryRule, RequestTemplate } from '../http/endpoint.ts';
import type { Expectation } from '../http/expectation.ts';
import type { Body } from '../http/bodies/definition.ts';
import type { ReadAs } from '../http/decode.ts';
import type { Timeouts } from '../http/message.ts';
import type { RateLimit } from '../pacing/rate-limit.ts';
import type { Expression, Named } from '../schema/leaves.ts';
import type { TextTemplate, ValueTemplate } from '../template/template.ts';
import type { Value } from '../value/value.ts';

export const COLUMN_TYPES = [
  'string',
  'integer',
  'number',
  'boolean',
  'date',
  'date-time',
  'duration',
  'json',
] as const;
type ColumnType = (typeof COLUMN_TYPES)[number];

/** An input is what a cell of a table can be, or one of three things more. */
export const INPUT_TYPES = [...COLUMN_TYPES, 'secret', 'file', 'table'] as const;
export type InputType = (typeof INPUT_TYPES)[number];

/** One input of a chain. It is required unless it has a default or is optional. */
export type InputDefinition = Readonly<{
  file: SourceFile;
  name: string;
  nameRange: Range;
  type: InputType;
  default: ValueTemplate | undefined;
  optional: boolean;
  about: string | undefined;
  /** The values that it may have; `undefined` for any of its type. */
  choices: readonly Value[] | undefined;
  /** The chain that gives the values that it may have, and the name under which it gives them. */
  choicesFrom: ChoicesFrom | undefined;
  /** How a table is read. */
  table: TableForm;
}>;

/** Where an input's choices come from: a chain, and the name under which it gives them. */
export type ChoicesFrom = Readonly<{ chain: Source; name: Source }>;

/** How a table is read: types by column, and what CSV leaves open. */
export type TableForm = Readonly<{
  columns: Named<ColumnType>;
  separator: string | undefined;
  charset: string | undefined;
  /** Signs in numbers: the decimal mark, and what groups thousands. */
  decimal: string | undefined;
  thousands: string | undefined;
}>;

/** What every kind of step may say. */
type StepCommon = Readonly<{
  /** The step runs only when this holds. */
  when: Expression | undefined;
  /** Of a run that is divided: the only slice that runs the step. */
  once: Once | undefined;
}>;

/** The first slice of a divided run, or the one that comes to a step last. */
export type Once = 'first-slice' | 'last-slice';

/** A step that sends a request and reads the response. */
export type CallStep = StepCommon &
  Readonly<{
    kind: 'call';
    name: string;
    nameSource: Source;
    api: Source | undefined;
    request: RequestTemplate;
    timeouts: Timeouts | undefined;
    namespaces: Readonly<Record<string, string>>;
    /** What the body is read as, whatever its media type says. */
    readAs: ReadAs | undefined;
    /** The file that the body goes into instead of being held, and whether a chosen name may replace one. */
    save: TextTemplate | undefined;
    replace: boolean;
    /** Bytes of a body that is held; `undefined` for the default. */
    maxBodyBytes: number | undefined;
    untilEvent: UntilEvent | undefined;
    paging: Paging | undefined;
    poll: Poll | undefined;
    retry: RetryRule | undefined;
    /** Milliseconds for which a server's `Retry-After` is waited for. */
    maxWaitMs: number | undefined;
    /** A stricter rate limit of this call, inside that of its api. */
    rateLimit: RateLimit | undefined;
    /** How old a recorded response may be, in milliseconds; `today`: no older than the day of its API. */
    freshFor: number | 'today' | undefined;
    redirects: 'follow' | 'stop' | undefined;
    /** What the file says of whether it changes something, and may be sent again; else its method decides. */
    changes: boolean | undefined;
    repeatable: boolean | undefined;
    expect: readonly Expectation[];
    keep: Named<Expression>;
    /** The request that takes back what the call made. */
    undo: Undo | undefined;
    /** Whether it is such a request itself: what is gone already need not be taken back. */
    isUndo?: true;
    onFailure: 'stop' | 'continue';
    /** Statuses with which it does not fail, and what is done then. */
    onStatus: readonly StatusArm[];
  }>;

/** Steps that are run when a call is answered with a status; then the call is sent anew, at most so many times. */
export type StatusArm = Readonly<{ status: number; steps: readonly Step[]; again: number }>;

/** How pages follow each other: by the next URL, or by parameters while a condition holds. */
export type Paging = Readonly<{
  next: Expression | undefined;
  query: Named<ValueTemplate> | undefined;
  while: Expression | undefined;
  items: Expression | undefined;
  maxPages: number;
  /** Whether reaching it with more to come is meant. */
  thenStop: boolean;
}>;

/** A request that takes back what a call made, and what must hold of its response. */
export type Undo = Readonly<{ request: RequestTemplate; expect: readonly Expectation[] }>;

/** When to stop listening to a stream of events: when the condition holds, after so many, or after so many milliseconds. */
export type UntilEvent = Readonly<{ until: Expression; maxEvents: number; withinMs: number }>;

/** A step of which no sense could be made; what it would have bound is known all the same, so that it misleads no check. */
export type BrokenStep = StepCommon & Readonly<{ kind: 'broken'; binds: readonly string[] }>;

/** A step that computes variables. */
export type LetStep = StepCommon & Readonly<{ kind: 'let'; names: Named<Expression> }>;

/** A step that says a line. */
export type SayStep = StepCommon & Readonly<{ kind: 'say'; text: TextTemplate }>;

/** A step that judges what is kept. */
export type ExpectStep = StepCommon & Readonly<{ kind: 'expect'; expect: readonly Expectation[] }>;

/** A branch. */
export type IfStep = StepCommon &
  Readonly<{
    kind: 'if';
    condition: Expression;
    steps: readonly Step[];
    otherwise: readonly Step[];
  }>;

/** A step that ends its chain. */
export type StopStep = StepCommon & Readonly<{ kind: 'stop'; text: TextTemplate; as: 'failed' | 'passed' }>;

/** A pause: for a length of time, or until an instant. */
export type WaitStep = StepCommon & Readonly<{ kind: 'wait'; for: Expression } | { kind: 'wait'; to: Expression }>;

/** A loop: its steps once for each item of a list, each time in a scope of its own. */
export type EachStep = StepCommon &
  Readonly<{
    kind: 'each';
    /** The name of an item, and where it stands. */
    name: string;
    nameSource: Source;
    list: Expression;
    /** The head as it is written: `vessel in due`. */
    head: Source;
    steps: readonly Step[];
    /** What an item is known by when lists change; else its content. */
    identifiedBy: Expression | undefined;
    concurrency: number;
    onFailure: 'stop' | 'continue';
    /** Items that may fail one after another, with none held between. */
    maxConsecutiveFailures: number | undefined;
    /** Lists of a value of each item that passed, in the order of the items. */
    gather: Named<ValueTemplate>;
    /** The file of the items that failed, and whether a chosen name may replace one. */
    rejects: TextTemplate | undefined;
    replace: boolean;
    /** Each item has cookies of its own. */
    ownCookies: boolean;
  }>;

/** Unlike steps at the same time. */
export type ParallelStep = StepCommon &
  Readonly<{ kind: 'parallel'; steps: readonly Step[]; concurrency: number | undefined }>;

/** Steps again and again, until a condition on what they keep holds. */
export type RepeatStep = StepCommon &
  Readonly<{
    kind: 'repeat';
    name: string;
    nameSource: Source;
    steps: readonly Step[];
    until: Expression | undefined;
    giveUpWhen: Expression | undefined;
    every: Pause | undefined;
    withinMs: number | undefined;
    maxRounds: number;
    carry: Named<Expression>;
  }>;

/** Another chain, in a scope of its own. */
export type ChainStep = StepCommon &
  Readonly<{ kind: 'chain'; file: Source; inputs: Named<ValueTemplate>; keep: Named<Expression> }>;

/** Rows into a file: one row, or a list of them; or a text. */
export type WriteStep = StepCommon &
  Readonly<{
    kind: 'write';
    file: TextTemplate;
    text: TextTemplate | undefined;
    /** Whether a chosen name may replace a file. */
    replace: boolean;
    row: readonly (readonly [name: string, value: ValueTemplate])[] | undefined;
    rows: Expression | undefined;
    /** The column by whose value rows are updated. */
    updateBy: string | undefined;
    /** Whether what was there stays. */
    append: boolean;
    /** Whether secrets are written as they are. */
    reveal: boolean;
    /** Whether cells that a spreadsheet would run are made texts. */
    spreadsheet: boolean;
  }>;

/** Values for the next run of the chain at the same deployments. */
export type RememberStep = StepCommon & Readonly<{ kind: 'remember'; names: Named<Expression> }>;

/** Opens an address to be called back at; `NAME.url` is its URL. */
export type ListenStep = StepCommon &
  Readonly<{
    kind: 'listen';
    name: string;
    nameSource: Source;
    /** Where it is listened: a free port, a path that nobody guesses and the loopback address unless said. */
    path: TextTemplate | undefined;
    port: number | undefined;
    bind: string | undefined;
    /** The address as it is seen from outside. */
    public: TextTemplate | undefined;
  }>;

/** Waits for a request at an address that was opened before. */
export type ReceiveStep = StepCommon &
  Readonly<{
    kind: 'receive';
    name: string;
    nameSource: Source;
    withinMs: number;
    until: Expression | undefined;
    verify: VerifyRule | undefined;
    respond: Respond | undefined;
    /** What a request is answered that is not verified. */
    refuse: Respond | undefined;
    expect: readonly Expectation[];
    keep: Named<Expression>;
  }>;

/** What a received request is answered. */
export type Respond = Readonly<{ status: number; headers: Named<ValueTemplate>; body: Body | undefined }>;

export type Step =
  | CallStep
  | LetStep
  | SayStep
  | ExpectStep
  | IfStep
  | StopStep
  | WaitStep
  | EachStep
  | ParallelStep
  | RepeatStep
  | ChainStep
  | WriteStep
  | RememberStep
  | ListenStep
  | ReceiveStep
  | BrokenStep;

/** One chain file. */
export type Chain = Readonly<{
  file: SourceFile;
  name: string;
  about: string | undefined;
  /** Words by which runs choose chains. */
  tags: readonly string[];
  api: Source | undefined;
  inputs: readonly InputDefinition[];
  steps: readonly Step[];
  /** Steps that run at the end, whatever happened. */
  cleanup: readonly Step[];
  outputs: Named<Expression>;
}>;
