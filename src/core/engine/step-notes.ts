import { allPartsOf } from '../chain/steps/inside.ts';
import type { Part } from '../chain/parts.ts';
import type { Step } from '../chain/model.ts';
import { diagnosticIn, type Source } from '../diagnostics/source.ts';
import type { Node } from '../expression/model.ts';
import type { Expectation } from '../http/expectation.ts';
import type { EventBody } from '../journal/events.ts';
import { targetPlaceholders } from '../template/request-line.ts';
import { placeholdersOf } from '../template/template.ts';
import type { StepFrame } from './frame.ts';
import { problemRecord } from './places.ts';

/** The notes of a step as events, each once; those of parts of expressions are left to their wholes. */
export function noteEvents(step: Step, { address, host, endpointOf, chain }: StepFrame): readonly EventBody[] {
  if (host.notes.length === 0) return [];
  const ofApi = endpointOf(chain, step.kind === 'call' ? step : undefined)?.expect ?? [];
  const sources = new Map<Node, Source>([
    ...(step.when?.tree ? [[step.when.tree, step.when.source] as const] : []),
    ...allPartsOf(step).flatMap(sourcesIn),
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

function sourcesIn(part: Part): readonly (readonly [Node, Source])[] {
  switch (part.sort) {
    case 'expression':
      return part.expression.tree ? [[part.expression.tree, part.expression.source]] : [];
    case 'binding':
      return part.value?.tree ? [[part.value.tree, part.value.source]] : [];
    case 'text':
      return placeholdersOf(part.text).map(({ node, source }) => [node, source] as const);
    case 'target':
      return targetPlaceholders(part.target).map(({ node, source }) => [node, source] as const);
    default:
      return [];
  }
}

function sourceOfExpectation(expectation: Expectation): readonly (readonly [Node, Source])[] {
  if (expectation.form !== 'that' || !expectation.expression.tree) return [];
  return [[expectation.expression.tree, expectation.expression.source]];
}
