import type { VNode } from 'preact';
import { counted, grouped, spent } from '../../../value/show.ts';
import type { RunSummary } from '../../run-summary.ts';
import { Calls } from './calls.tsx';
import { Failures } from './failures.tsx';
import { MAX_NOTES, Rows } from './parts.tsx';
import { Timeline } from './timeline.tsx';
import { Times } from './times.tsx';
import { figuresOf } from './figures.ts';
import { marksOf } from '../../picture-marks.ts';
import type { Picture } from '../../../picture/picture.ts';
import { PictureSvg } from '../../../picture/svg.tsx';

/** One run of a page: its figures, what failed, what was sent when, each call, and what it made. */
export function Run({ run, picture }: Readonly<{ run: RunSummary; picture: Picture | undefined }>): VNode {
  const { name, outcome, where, id, startedMs, file } = run;
  const color = outcome === 'passed' ? 'good' : outcome === 'failed' ? 'bad' : 'warn';
  const begun = `${new Date(startedMs).toISOString().slice(0, 19).replace('T', ' ')} UTC`;
  const figures = figuresOf(run);
  const about = [where, id === '' ? 'could not run' : `run ${id}`, file, begun];
  return (
    <section id={id === '' ? file : id}>
      <h1>
        {name}
        <span class={`badge ${color}`}>{outcome}</span>
      </h1>
      <p class="quiet">{about.filter(Boolean).join(' \u00b7 ')}</p>
      {id === '' ? null : <Facts run={run} />}
      <Failures run={run} />
      {picture ? <Chain picture={picture} run={run} /> : null}
      <Times figures={figures} />
      <Timeline run={run} figures={figures} />
      <Calls run={run} />
      <Made run={run} />
    </section>
  );
}

/** The chain as a picture, with what the run did at each step. */
function Chain({ picture, run }: Readonly<{ picture: Picture; run: RunSummary }>): VNode {
  return (
    <>
      <h2>Chain</h2>
      <div class="wide chain" tabIndex={0} role="region" aria-label="The picture of the chain">
        <PictureSvg picture={picture} run={marksOf(picture, run)} ids={`picture-${run.id}`} />
      </div>
    </>
  );
}

function Facts({ run: { totals, startedMs, endedMs, calls } }: Readonly<{ run: RunSummary }>): VNode {
  if (!totals) {
    return (
      <div class="facts">
        <OfAll failed={0} all={calls.length} what="calls" />
        <Fact value={grouped(calls.length)} label="requests" />
        <Fact value={spent(endedMs - startedMs)} label="total" />
      </div>
    );
  }
  const waited = Object.entries(totals.waited).sort((left, right) => right[1] - left[1]);
  const sum = waited.reduce((all, [, ms]) => all + ms, 0);
  const reasons = waited.map(([why, ms]) => `${why} ${spent(ms)}`).join(', ');
  return (
    <div class="facts">
      <OfAll failed={totals.failed} all={totals.calls} what="calls" />
      <Fact value={grouped(totals.exchanges)} label="requests" />
      <OfAll failed={totals.expects - totals.passed} all={totals.expects} what="expectations" />
      <Fact value={spent(totals.ms)} label="total" />
      {sum >= 50 ? <Fact value={spent(sum)} label={`waiting (${reasons})`} /> : null}
      {totals.retried > 0 ? <Fact value={grouped(totals.retried)} label="needed several attempts" /> : null}
    </div>
  );
}

function Fact({ value, label }: Readonly<{ value: string; label: string }>): VNode {
  return (
    <div class="fact">
      <b>{value}</b>
      <span>{label}</span>
    </div>
  );
}

function OfAll({ failed, all, what }: Readonly<{ failed: number; all: number; what: string }>): VNode {
  if (failed > 0) return <Fact value={`${grouped(failed)} of ${grouped(all)}`} label={`${what} failed`} />;
  return <Fact value={grouped(all)} label={`${what} passed`} />;
}

/** What came of a run: outputs, files, notes. */
function Made({ run: { files, outputs, notes } }: Readonly<{ run: RunSummary }>): VNode {
  const given = Object.entries(outputs).map(([label, text]) => ({ label, text }));
  return (
    <>
      {given.length > 0 ? <h2>Outputs</h2> : null}
      <Rows of={given} />
      {files.length > 0 ? <h2>Files</h2> : null}
      {files.length > 0 ? (
        <table>
          <thead>
            <tr>
              <th scope="col">file</th>
              <th scope="col">what</th>
              <th scope="col" class="number">
                rows
              </th>
              <th scope="col" class="number">
                size
              </th>
            </tr>
          </thead>
          {files.map(({ path, op, rows, after }) => (
            <tr>
              <td>{path}</td>
              <td>{op}</td>
              <td class="number">{rows === undefined ? '' : counted(rows, 'row')}</td>
              <td class="number">{counted(after.size, 'byte')}</td>
            </tr>
          ))}
        </table>
      ) : null}
      {notes.length > 0 ? <h2>Notes</h2> : null}
      {notes.slice(0, MAX_NOTES).map(({ level, code, message }) => (
        <p>
          <b class="warn">{`${level} ${code}`}</b>
          {`: ${message}`}
        </p>
      ))}
    </>
  );
}
