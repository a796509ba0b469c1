import type { VNode } from 'preact';
import { counted, grouped } from '../../../value/show.ts';
import type { Coverage, OperationCoverage } from '../../coverage.ts';
import { Rows } from './parts.tsx';

/** What the runs exercised of an API description: each operation with what was seen of it, and what was not. */
export function CoverageOf({ coverage }: Readonly<{ coverage: Coverage }>): VNode {
  const { file, title, exercised, operations } = coverage;
  const never = operations.filter(({ requests }) => requests === 0);
  return (
    <section>
      <h2>{`Contract: ${title}`}</h2>
      <p class="quiet">{`${file} \u00b7 ${exercised} of ${counted(operations.length, 'operation')} exercised`}</p>
      {operations
        .filter(({ requests }) => requests > 0)
        .map((each) => (
          <Exercised operation={each} />
        ))}
      {never.length === 0 ? null : (
        <details class="operation">
          <summary>
            <span class="quiet">{`${counted(never.length, 'operation')} never exercised`}</span>
          </summary>
          <div class="inside">
            <Rows of={never.map(({ name, id = '' }) => ({ label: name, text: id }))} />
          </div>
        </details>
      )}
    </section>
  );
}

function Exercised({ operation }: Readonly<{ operation: OperationCoverage }>): VNode {
  const { name, id, requests, statuses, parameters, members } = operation;
  const strange = [...statuses, ...members].filter(({ isDescribed }) => !isDescribed);
  const rows = [
    { label: 'statuses', text: statuses.map((each) => `${each.name} ${times(each.count)}`).join(', ') },
    ...rowsOf('parameters', parameters),
    ...rowsOf('response members', members),
  ];
  return (
    <details class="operation">
      <summary>
        <span>{name}</span>
        <span class="quiet">{id}</span>
        <span class="warn">{strange.length > 0 ? `${strange.length} not described` : ''}</span>
        <span class="time quiet">{counted(requests, 'request')}</span>
      </summary>
      <div class="inside">
        <Rows of={rows} />
      </div>
    </details>
  );
}

function times(count: number): string {
  return count === 0 ? 'never' : `${grouped(count)}\u00d7`;
}

function rowsOf(what: string, all: OperationCoverage['members']) {
  const named = (fits: (each: OperationCoverage['members'][number]) => boolean) =>
    all
      .filter(fits)
      .map(({ name }) => name)
      .join(', ');
  return [
    { label: `${what} seen`, text: named(({ count, isDescribed }) => count > 0 && isDescribed) },
    { label: `${what} never seen`, text: named(({ count }) => count === 0) },
    { label: `${what} not described`, text: named(({ isDescribed }) => !isDescribed) },
  ].filter(({ text }) => text !== '');
}
