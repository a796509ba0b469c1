import type { VNode } from 'preact';
import { renderToString } from 'preact-render-to-string';
import { crypto } from '../../../packages.ts';
import type { RunSummary } from '../../run-summary.ts';
import type { Coverage } from '../../coverage.ts';
import { CoverageOf } from './coverage.tsx';
import { Run } from './run.tsx';
import { STYLE } from './style.ts';
import type { Picture } from '../../../picture/picture.ts';
import { PICTURE_STYLE } from '../../../picture/svg.tsx';

/** The page as HTML. Everything in it is escaped: what servers send stays text. */
export function pageOf(
  runs: readonly RunSummary[],
  tool: string,
  coverage: readonly Coverage[] = [],
  pictures: ReadonlyMap<string, Picture> = new Map(),
): string {
  return `<!doctype html>\n${renderToString(<Page {...{ runs, tool, coverage, pictures }} />)}\n`;
}

/** The runs of a page, each with a link to it. */
function Contents({ runs }: Readonly<{ runs: readonly RunSummary[] }>): VNode {
  return (
    <nav aria-label="Runs">
      <ul class="contents">
        {runs.map(({ id, file, name, outcome }) => (
          <li>
            <a href={`#${id === '' ? file : id}`}>{name}</a>{' '}
            <span class={outcome === 'passed' ? 'good' : outcome === 'failed' ? 'bad' : 'warn'}>{outcome}</span>
          </li>
        ))}
      </ul>
    </nav>
  );
}

type PageProps = Readonly<{
  runs: readonly RunSummary[];
  tool: string;
  coverage: readonly Coverage[];
  pictures: ReadonlyMap<string, Picture>;
}>;

function Page({ runs, tool, coverage, pictures }: PageProps): VNode {
  const style = pictures.size > 0 ? STYLE + PICTURE_STYLE : STYLE;
  const hash = crypto().createHash('sha256').update(style).digest('base64');
  const policy = `default-src 'none'; style-src 'sha256-${hash}'; base-uri 'none'; form-action 'none'`;
  return (
    <html lang="en">
      <head>
        <meta charset="utf-8" />
        <meta http-equiv="Content-Security-Policy" content={policy} />
        <meta name="viewport" content="width=device-width, initial-scale=1" />
        <title>{runs.map(({ name, outcome }) => `${name}: ${outcome}`).join(', ')}</title>
        {/* A style is no text of the page: it is put in as it is, and holds nothing from outside. */}
        <style dangerouslySetInnerHTML={{ __html: style }} />
      </head>
      <body>
        <main>
          {runs.length > 1 ? <Contents runs={runs} /> : null}
          {runs.map((run) => (
            <Run run={run} picture={pictures.get(run.id)} />
          ))}
          {coverage.map((each) => (
            <CoverageOf coverage={each} />
          ))}
          <p class="quiet">{`Made by ${tool} from the journal of the run.`}</p>
        </main>
      </body>
    </html>
  );
}
