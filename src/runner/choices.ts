import { resolveInputs } from '../core/chain/inputs.ts';
import type { Choice } from '../core/chain/choices.ts';
import type { InputDefinition } from '../core/chain/model.ts';
import { giveChoices } from '../core/engine/choices.ts';
import { inputHost, type RunHost } from '../core/engine/host.ts';
import type { EventOf, JournalEvent } from '../core/journal/events.ts';
import { isFact } from '../core/journal/recorder.ts';
import type { Caller } from './caller.ts';
import { explainFailure } from '../core/report/failure.ts';
import { History } from '../core/report/history.ts';
import type { RunPlan } from './run-plan.ts';
import { withRecord } from './with-record.ts';
import { CommandError } from './command-error.ts';

/** Events that tell of the requests of a chain, and not of its steps. */
const OF_REQUESTS: ReadonlySet<string> = new Set(['sent', 'answered', 'broken', 'again', 'waited']);

/**
 * The choices of inputs that other chains give: each of those is run once, before the run itself. What they sent is held,
 * and is recorded as the first thing of the run.
 */
export class ChoicesOfChains {
  readonly events: JournalEvent[] = [];
  private readonly known = new Map<string, Promise<readonly Choice[]>>();

  constructor(
    private readonly plan: Pick<RunPlan, 'workspace' | 'used' | 'help' | 'at' | 'secrets'>,
    private readonly caller: Caller,
  ) {}

  of(input: InputDefinition, host: RunHost): Promise<readonly Choice[]> {
    let choices = this.known.get(input.name);
    if (!choices) this.known.set(input.name, (choices = this.run(input, host)));
    return choices;
  }

  private async run(input: InputDefinition, outer: RunHost): Promise<readonly Choice[]> {
    const { plan, caller, events } = this;
    const chain = plan.used.chainAt(input.choicesFrom!.chain)!;
    const host = outer.beside(chain.file);
    caller.progress(`Reading the choices of ${input.name} with ${chain.file.path} ...\n`);
    const { inputs, diagnostics } = await resolveInputs(chain, new Map(), plan.secrets, inputHost(host, 'choices'));
    if (diagnostics[0]) throw new CommandError('choices-chain', diagnostics[0].message);
    let failed: EventOf<'ended'> | undefined;
    const exchanges = events.filter(({ type }) => type === 'sent').length;
    const given = await withRecord(
      {
        ...plan,
        chain,
        inputs,
        host,
        exchanges,
        purpose: 'choices',
        options: {},
        now: null,
        listeners: [
          (event) => {
            if (isFact(event) && OF_REQUESTS.has(event.type)) events.push(event);
            if (event.type === 'ended' && event.outcome === 'failed' && event.problem) failed = event;
          },
        ],
      },
      caller,
      (request) => giveChoices(request, input),
    );
    if ('choices' in given) return given.choices;
    // There is no run to look at.
    const failure = failed && { ...explainFailure(failed, new History()), hasExchange: false };
    const advice = `Run it by itself to see why: batharon run ${chain.file.path}`;
    throw new CommandError('choices-chain', given.message, advice, 2, failure);
  }
}
