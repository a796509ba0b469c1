import type { VNode } from 'preact';
import { renderToString } from 'preact-render-to-string';
import { crypto } from '../packages.ts';
import type { Picture, PictureRow, RunMarks } from './picture.ts';
import { PICTURE_STYLE, PictureSvg, SvgFile } from './svg.tsx';

/** A picture as an SVG document. */
export function svgOf(picture: Picture, run?: RunMarks): string {
  return `${xmlText(renderToString(<SvgFile picture={picture} run={run} />))}\n`;
}

/** A picture as a page: the details of a step are shown when it is pointed at, or reached by keyboard. Nothing in it runs. */
export function picturePage(picture: Picture, run?: RunMarks): string {
  return `<!doctype html>\n${xmlText(renderToString(<Page picture={picture} run={run} />))}\n`;
}

/** What ends a section of characters may not stand in the text of XML (XML 1.0 section 2.4). */
function xmlText(text: string): string {
  return text.replaceAll(']]>', ']]&gt;');
}

const PAGE_STYLE = `${PICTURE_STYLE}
:root { color-scheme: light dark; --paper: #fbfbf9; --card: #ffffff; --ink: #1c2730; --quiet: #55636e; --line: #c3ccd2; --send: #2a6893; }
@media (prefers-color-scheme: dark) { :root { --paper: #14191d; --card: #1b2227; --ink: #e4e9ec; --quiet: #a3b0b9; --line: #3d4952; --send: #6fb1e0; } }
body { margin: 0; background: var(--paper); color: var(--ink); font: 14px/1.5 system-ui, sans-serif; }
main { display: grid; grid-template-columns: minmax(0, auto) 300px; gap: 20px; padding: 16px; align-items: start; justify-content: start; }
.scroll { overflow-x: auto; } .details { position: sticky; top: 16px; min-height: 200px; }
.detail { display: none; background: var(--card); border: 1px solid var(--line); border-radius: 8px; padding: 12px 14px; }
.hint { color: var(--quiet); } h1 { position: absolute; left: -9999px; } h2 { font-size: 15px; margin: 0 0 8px; }
dl { margin: 0; } dt { color: var(--quiet); font-size: 12px; margin-top: 8px; } dd { margin: 0; overflow-wrap: anywhere; font: 12px/1.5 ui-monospace, Menlo, Consolas, monospace; }
@media (max-width: 800px) { main { display: block; } .details { position: static; } }
@media print { .details { display: none; } }
`;

function Page({ picture, run }: Readonly<{ picture: Picture; run: RunMarks | undefined }>): VNode {
  const style = PAGE_STYLE + shownBy(picture);
  const hash = crypto().createHash('sha256').update(style).digest('base64');
  return (
    <html lang="en">
      <head>
        <meta charset="utf-8" />
        <meta
          http-equiv="Content-Security-Policy"
          content={`default-src 'none'; style-src 'sha256-${hash}'; base-uri 'none'; form-action 'none'`}
        />
        <meta name="viewport" content="width=device-width, initial-scale=1" />
        <title>{picture.name}</title>
        <style dangerouslySetInnerHTML={{ __html: style }} />
      </head>
      <body>
        <main>
          <h1>{picture.name}</h1>
          <div class="scroll" tabIndex={0} role="region" aria-label="The picture of the chain">
            <PictureSvg picture={picture} run={run} ids="step" focusable />
          </div>
          <div class="details">
            <p class="hint">Point at a step, or reach it with the Tab key, to see what it takes and gives.</p>
            {picture.rows.map((row, i) => (
              <Detail row={row} index={i} picture={picture} run={run} />
            ))}
          </div>
        </main>
      </body>
    </html>
  );
}

type DetailProps = Readonly<{ row: PictureRow; index: number; picture: Picture; run: RunMarks | undefined }>;

function Detail({ row, index, picture: { rows, flows }, run }: DetailProps): VNode {
  const named = (at: number) => `${rows[at]!.number} ${rows[at]!.title}`.trim();
  const facts: readonly (readonly [string, readonly string[]])[] = [
    [row.kind === 'call' ? 'request' : row.kind, row.lines],
    ['API', row.api === undefined ? [] : [row.api]],
    [
      'takes',
      flows.filter(({ to }) => to === index).map(({ from, names }) => `${names.join(', ')} from ${named(from)}`),
    ],
    ['reads as many others do', row.chips],
    ['gives', flows.filter(({ from }) => from === index).map(({ to, names }) => `${names.join(', ')} to ${named(to)}`)],
    ['in the run', run?.marks.has(row.number) ? [run.marks.get(row.number)!.text] : []],
  ];
  return (
    <div class="detail" id={`detail-${index}`}>
      <h2>{named(index)}</h2>
      <dl>
        {facts
          .filter(([, values]) => values.length > 0)
          .map(([label, values]) => (
            <>
              <dt>{label}</dt>
              {values.map((value) => (
                <dd>{value}</dd>
              ))}
            </>
          ))}
      </dl>
    </div>
  );
}

/** Rules by which a step that is pointed at shows its details and its flows. */
function shownBy({ rows }: Picture): string {
  const on = (i: number) => `main:has(#step-${i}:hover, #step-${i}:focus-visible)`;
  const each = rows.map(
    (_, i) =>
      `${on(i)} #detail-${i} { display: block; } ${on(i)} .hint { display: none; } ${on(i)} .step-of-${i} .flow { stroke: var(--send); stroke-width: 2.4; }`,
  );
  return each.join('\n');
}
