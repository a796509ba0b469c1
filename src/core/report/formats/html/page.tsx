import type { VNode } from 'preact';
import { renderToString } from 'preact-render-to-string';
import { crypto } from '../../../packages.ts';
import type { RunSummary } from '../../run-summary.ts';
import type { Coverage } from '../../coverage.ts';
import { CoverageOf } from './coverage.tsx';
import { Run } from './run.tsx';
import { STYLE } from './style.ts';

/** The page as HTML. Everything in it is escaped: what servers send stays text. */
export function pageOf(runs: readonly RunSummary[], tool: string, coverage: readonly Coverage[] = []): string {
  return `<!doctype html>\n${renderToString(<Page runs={runs} tool={tool} coverage={coverage} />)}\n`;
}

type PageProps = Readonly<{ runs: readonly RunSummary[]; tool: string; coverage: readonly Coverage[] }>;

function Page({ runs, tool, coverage }: PageProps): VNode {
  const hash = crypto().createHash('sha256').update(STYLE).digest('base64');
  const policy = `default-src 'none'; style-src 'sha256-${hash}'; base-uri 'none'; form-action 'none'`;
  return (
    <html lang="en">
      <head>
        <meta charset="utf-8" />
        <meta http-equiv="Content-Security-Policy" content={policy} />
        <meta name="viewport" content="width=device-width, initial-scale=1" />
        <title>{runs.map(({ name, outcome }) => `${name}: ${outcome}`).join(', ')}</title>
        {/* A style is no text of the page: it is put in as it is, and holds nothing from outside. */}
        <style dangerouslySetInnerHTML={{ __html: STYLE }} />
      </head>
      <body>
        <main>
          {runs.map((run) => (
            <Run run={run} />
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
