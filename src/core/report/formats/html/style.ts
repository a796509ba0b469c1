/** How the page looks: light and dark as the reader's system is, and on paper. Its hash stands in the page's policy. */
export const STYLE = `
:root { color-scheme: light dark; --ink: #1c2730; --quiet: #5a6873; --paper: #fbfbf9; --card: #ffffff; --line: #d9dfe3;
  --good: #1d7a46; --bad: #a5322d; --warn: #8a5a00; --send: #2a6893; --wait: #c9d2d8; --code: #eef2f2; }
@media (prefers-color-scheme: dark) { :root { --ink: #e4e9ec; --quiet: #9aa7b0; --paper: #14191d; --card: #1b2227; --line: #2f3a42;
  --good: #5bc689; --bad: #ee938b; --warn: #e2b35a; --send: #6fb1e0; --wait: #3b4852; --code: #232c32; } }
* { box-sizing: border-box; }
body { margin: 0; background: var(--paper); color: var(--ink); font: 15px/1.5 system-ui, sans-serif; }
main { max-width: 1120px; margin: 0 auto; padding: 24px 20px 60px; }
section + section { margin-top: 56px; }
h1 { font-size: 26px; margin: 0 0 4px; } h2 { font-size: 18px; margin: 34px 0 10px; } h3 { font-size: 15px; margin: 0 0 6px; }
p { margin: 0 0 8px; } a { color: var(--send); }
.quiet { color: var(--quiet); } .good { color: var(--good); } .bad { color: var(--bad); } .warn { color: var(--warn); }
.badge { display: inline-block; padding: 1px 10px; border-radius: 10px; border: 1px solid currentColor; font-weight: 600; font-size: 13px;
  vertical-align: 4px; margin-left: 10px; }
.facts { display: grid; grid-template-columns: repeat(auto-fit, minmax(150px, 1fr)); gap: 10px; margin: 16px 0 0; }
.fact { background: var(--card); border: 1px solid var(--line); border-radius: 8px; padding: 8px 12px; }
.fact b { display: block; font-size: 18px; font-variant-numeric: tabular-nums; } .fact span { color: var(--quiet); font-size: 13px; }
.card { background: var(--card); border: 1px solid var(--line); border-radius: 8px; padding: 12px 16px; margin: 0 0 10px; }
.card.failed { border-left: 4px solid var(--bad); }
code, pre { font: 13px/1.5 ui-monospace, Menlo, Consolas, monospace; }
pre { background: var(--code); border-radius: 6px; padding: 8px 12px; margin: 6px 0; overflow: auto; max-height: 420px; white-space: pre-wrap;
  overflow-wrap: anywhere; }
dl.rows { display: grid; grid-template-columns: max-content 1fr; gap: 2px 16px; margin: 6px 0; } dl.rows dt { font-family: ui-monospace, Menlo,
  Consolas, monospace; font-size: 13px; color: var(--send); max-width: 340px; overflow-wrap: anywhere; } dl.rows dd { margin: 0; overflow-wrap: anywhere; }
table { border-collapse: collapse; width: 100%; font-size: 14px; } th { text-align: left; font-weight: 600; color: var(--quiet); font-size: 13px; }
th, td { padding: 3px 10px 3px 0; border-bottom: 1px solid var(--line); vertical-align: top; overflow-wrap: anywhere; }
td.number, th.number { text-align: right; font-variant-numeric: tabular-nums; white-space: nowrap; }
details > summary { cursor: pointer; padding: 4px 0; display: grid; grid-template-columns: 70px 190px 1fr 50px 80px; gap: 10px; list-style: none;
  border-bottom: 1px solid var(--line); }
details > summary::-webkit-details-marker { display: none; } details > summary:hover { background: var(--code); }
details > summary > * { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; } details[open] > summary { font-weight: 600; }
details.operation > summary { grid-template-columns: 360px 1fr 140px 100px; } .inside { padding: 8px 0 14px 12px; } .time { text-align: right; font-variant-numeric: tabular-nums; }
svg { width: 100%; height: auto; display: block; } .wide { overflow-x: auto; } .timeline { min-width: 720px; } .chain svg { width: auto; max-width: none; }
.times { min-width: 700px; } .times td:nth-child(2), .times th:nth-child(2) { width: 52%; } .axis text { font-size: 10px; }
.dot { fill: var(--send); fill-opacity: 0.55; } .bar { fill: var(--send); } .median { stroke: var(--ink); stroke-width: 1.5; }
.unseen { position: absolute; width: 1px; height: 1px; overflow: hidden; clip-path: inset(50%); } .contents { list-style: none; padding: 0; columns: 240px; } h3 .badge { margin: 0 6px; vertical-align: 1px; font-size: 12px; }
details.more > summary { display: list-item; list-style: revert; color: var(--send); } :focus-visible { outline: 2px solid var(--send); outline-offset: 1px; }
svg.picture text { font: inherit; fill: var(--ink); } svg text { font: 11px system-ui, sans-serif; fill: var(--quiet); }
.grid { stroke: var(--line); } .sent { fill: var(--send); } .sent.bad { fill: var(--bad); } .waited { fill: var(--wait); }
.legend span { display: inline-block; width: 12px; height: 12px; border-radius: 3px; margin: 0 6px 0 16px; vertical-align: -1px; }
.key-sent { background: var(--send); } .key-bad { background: var(--bad); } .key-wait { background: var(--wait); }
@media (max-width: 720px) { details > summary { grid-template-columns: 50px 1fr 44px 70px; } details > summary > :nth-child(3) { display: none; } }
@media print { :root { --paper: #fff; --card: #fff; } pre { max-height: none; } .card, .fact, svg { break-inside: avoid; } main { padding: 0; } }
`;
