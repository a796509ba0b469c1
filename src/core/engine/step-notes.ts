import { allPartsOf } from '../chain/steps/inside.ts';
import { nodesOfPart } from '../chain/parts.ts';
import type { Step } from '../chain/model.ts';
import { diagnosticIn, type Source } from '../diagnostics/source.ts';
import type { Node } from '../expression/model.ts';
import type { Expectation } from '../http/expectation.ts';
import type { EventBody } from '../journal/events.ts';
import type { StepFrame } from './frame.ts';
import { problemRecord } from './places.ts';

/** The notes of a step as events, each once; those of parts of expressions are left to their wholes. */
export function noteEvents(step: Step, { address, host, endpointOf, chain }: StepFrame): readonly EventBody[] {
  if (host.notes.length === 0) return [];
  const ofApi = endpointOf(chain, step.kind === 'call' ? step : undefined)?.expect ?? [];
  const sources = new Map<Node, Source>([
    ...(step.when?.tree ? [[step.when.tree, step.when.source] as const] : []),
    ...allPartsOf(step).flatMap(nodesOfPart),
    ...ofApi.flatMap(sourceOfExpectation),
  ]);
  const events = host.notes.flatMap(({ at, note }): readonly EventBody[] => {
    const source = 'locate' in at ? at : sources.get(at);
    if (!source) return [];
    const { code, message, advice, source: place } = problemRecord(diagnosticIn(source, note));
    const said = advice === undefined ? message : `${message}. ${advice}`;
    return [
      { type: 'note', code, level: 'warning', message: said, step: address, ...(place ? { source: place } : {}) },
    ];
  });
  return [...new Map(events.map((event) => [JSON.stringify(event), event])).values()];
}

function sourceOfExpectation(expectation: Expectation): readonly (readonly [Node, Source])[] {
  if (expectation.form !== 'that' || !expectation.expression.tree) return [];
  return [[expectation.expression.tree, expectation.expression.source]];
}
