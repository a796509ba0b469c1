import type { VNode } from 'preact';
import { counted, grouped } from '../../../value/show.ts';
import { REPLY_LABELS, type Failure, type FailureSection } from '../../failure.ts';
import type { CallSummary } from '../../call-summary.ts';
import type { RunSummary } from '../../run-summary.ts';
import { MAX_FAILURES, Rows } from './parts.tsx';

/** Every failure with all that is known of it; those of a loop that are alike are counted first. */
export function Failures({ run: { calls, others, groups } }: Readonly<{ run: RunSummary }>): VNode | null {
  const failed = [
    ...calls.failures.map((call) => ({ name: call.name, failure: call.failure, call })),
    ...others.map(({ name, failure }) => ({ name, failure, call: undefined })),
  ];
  if (failed.length === 0) return null;
  return (
    <>
      <h2>{`Failures (${grouped(failed.length)})`}</h2>
      {groups.map(({ count, step, items, common }) => (
        <p class="warn">
          {`${counted(count, 'item')} failed in the same way at ${step}: ${items}`}
          {common.map((each) => (
            <span class="quiet">{` \u00b7 ${each}`}</span>
          ))}
        </p>
      ))}
      {failed.slice(0, MAX_FAILURES).map((each) => (
        <Card {...each} />
      ))}
      {failed.length > MAX_FAILURES ? (
        <p class="quiet">{`and ${counted(failed.length - MAX_FAILURES, 'more failure')}, in the journal`}</p>
      ) : null}
    </>
  );
}

function Card({
  name,
  failure,
  call,
}: Readonly<{ name: string; failure: Failure; call: CallSummary | undefined }>): VNode {
  const { place, item, sections, reply, tries } = failure;
  return (
    <div class="card failed">
      <h3>
        {item === undefined ? name : `${name}, ${item}`}{' '}
        <span class="quiet">{place ? `${place.file}:${place.line}` : ''}</span>
      </h3>
      {call ? (
        <p>
          <code>{`${call.method} ${call.url}`}</code>
          {` answered ${call.status ?? 'nothing'}`}
        </p>
      ) : null}
      {sections.map((section) => (
        <Section section={section} />
      ))}
      {tries === undefined ? null : <p class="quiet">{tries}</p>}
      {reply ? (
        <div>
          <p class="quiet">{REPLY_LABELS[reply.part]}</p>
          <pre>{reply.text}</pre>
        </div>
      ) : null}
    </div>
  );
}

function Section({ section }: Readonly<{ section: FailureSection }>): VNode {
  if (section.kind === 'problem') {
    const { code, message, advice, line } = section.problem;
    return (
      <div>
        <p>
          <b class="bad">{code}</b>
          {`: ${message}`}
        </p>
        {line === undefined ? null : <pre>{line.trim()}</pre>}
        <Rows of={section.rows} />
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
      <Rows of={section.rows} />
    </div>
  );
}
