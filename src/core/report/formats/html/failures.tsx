import type { VNode } from 'preact';
import { counted, grouped } from '../../../value/show.ts';
import { causesOf, rowsOf, rowsShared, type Cause, type FailedStep } from '../../failure-causes.ts';
import { REPLY_LABELS, type FailureRow, type FailureSection } from '../../failure.ts';
import type { RunSummary } from '../../run-summary.ts';
import { Rows, shortened } from './parts.tsx';

/** Cards that a page shows, items of a card that are seen at once, and all of them. */
const MAX_CARDS = 40;
const SEEN = 8;
const MAX_ITEMS = 200;
const MAX_VALUE = 80;

/** What failed and why: failures of one cause are one card with its items. */
export function Failures({ run }: Readonly<{ run: RunSummary }>): VNode | null {
  const causes = causesOf(run);
  if (causes.length === 0) return null;
  const count = causes.reduce((sum, { all }) => sum + all.length, 0);
  const heading = count === causes.length ? grouped(count) : `${grouped(count)}, ${counted(causes.length, 'cause')}`;
  return (
    <>
      <h2>{`Failures (${heading})`}</h2>
      {causes.slice(0, MAX_CARDS).map((cause) => (
        <Card cause={cause} />
      ))}
      {causes.length > MAX_CARDS ? (
        <p class="quiet">{`and ${counted(causes.length - MAX_CARDS, 'more cause')}; batharon report json=FILE has all`}</p>
      ) : null}
    </>
  );
}

function Card({ cause: { first, all, common } }: Readonly<{ cause: Cause }>): VNode {
  const { call, failure } = first;
  const { sections, reply, tries } = failure;
  const isOne = all.length === 1;
  return (
    <article class="card failed">
      <Heading first={first} count={all.length} />
      {call ? (
        <p>
          <code>{`${call.method} ${call.url}`}</code>
          {` answered ${call.status ?? 'nothing'}`}
          {isOne ? '' : ', the first of them'}
        </p>
      ) : null}
      {sections.map((section) => (
        <Section section={section} rows={isOne ? section.rows : rowsShared(section.rows, all)} />
      ))}
      {common.length > 0 ? <p class="warn">{`What they have in common: ${common.join('; ')}`}</p> : null}
      {isOne ? null : <Items all={all} />}
      {tries === undefined ? null : <p class="quiet">{tries}</p>}
      {reply ? (
        <div>
          <p class="quiet">{REPLY_LABELS[reply.part]}</p>
          <pre tabIndex={0}>{reply.text}</pre>
        </div>
      ) : null}
      {failure.hasExchange ? <WholeExchange of={first} /> : null}
    </article>
  );
}

function Heading({ first: { name, failure }, count }: Readonly<{ first: FailedStep; count: number }>): VNode {
  const { place, item } = failure;
  return (
    <h3>
      {count === 1 && item !== undefined ? `${name}, ${item}` : name}{' '}
      {count === 1 ? null : <span class="badge bad">{counted(count, 'item')}</span>}{' '}
      <span class="quiet">{place ? `${place.file}:${place.line}` : ''}</span>
    </h3>
  );
}

function WholeExchange({ of: { name, failure } }: Readonly<{ of: FailedStep }>): VNode {
  return (
    <p class="quiet">
      {'The whole exchange: '}
      <code>{`batharon look ${name}${failure.items === '' ? '' : ` --item ${failure.items}`}`}</code>
    </p>
  );
}

/** The items that failed for one cause, with what they had; of many the first are seen at once. */
function Items({ all }: Readonly<{ all: readonly FailedStep[] }>): VNode {
  const [first] = all;
  const shared = new Set(rowsShared(rowsOf(first!), all));
  const labels = [...new Set(rowsOf(first!).flatMap((row) => (shared.has(row) ? [] : [row.label])))].slice(0, 3);
  const rest = all.slice(SEEN, MAX_ITEMS);
  return (
    <>
      <ItemTable items={all.slice(0, SEEN)} labels={labels} />
      {rest.length === 0 ? null : (
        <details class="more">
          <summary>{`${grouped(all.length - SEEN)} more${all.length > MAX_ITEMS ? `, the first ${rest.length} of them` : ''}`}</summary>
          <ItemTable items={rest} labels={labels} />
        </details>
      )}
    </>
  );
}

function ItemTable({ items, labels }: Readonly<{ items: readonly FailedStep[]; labels: readonly string[] }>): VNode {
  return (
    <div class="wide" tabIndex={0} role="region" aria-label="Items that failed">
      <table>
        <thead>
          <tr>
            <th scope="col">item</th>
            {labels.map((label) => (
              <th scope="col">{shortened(label, 40)}</th>
            ))}
            <th scope="col" class="number">
              status
            </th>
          </tr>
        </thead>
        <tbody>
          {items.map((step) => (
            <tr>
              <td>{step.failure.item ?? step.name}</td>
              {labels.map((label) => (
                <td>{shortened(rowsOf(step).find((row) => row.label === label)?.text ?? '', MAX_VALUE)}</td>
              ))}
              <td class="number">{step.call?.status ?? ''}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

type SectionProps = Readonly<{ section: FailureSection; rows: readonly FailureRow[] }>;

function Section({ section, rows }: SectionProps): VNode {
  if (section.kind === 'problem') {
    const { code, message, advice, line } = section.problem;
    return (
      <div>
        <p>
          <b class="bad">{code}</b>
          {`: ${message}`}
        </p>
        {line === undefined ? null : <pre tabIndex={0}>{line.trim()}</pre>}
        <Rows of={rows} />
        {advice === undefined ? null : <p class="quiet">{advice}</p>}
      </div>
    );
  }
  const { heading, verdict, because, why, advice, places } = section;
  const remarks = [because && `because ${because}`, why, advice].filter(Boolean).join('. ');
  return (
    <div>
      <p>
        <code>{heading}</code> <b class="bad">{verdict}</b>
      </p>
      {remarks === '' ? null : <p class="quiet">{remarks}</p>}
      <Rows of={(places?.first ?? []).map(({ path, text }) => ({ label: path, text }))} />
      <Rows of={rows} />
    </div>
  );
}
