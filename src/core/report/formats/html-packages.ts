/** What the page of a report is made with, loaded only when one is asked for. */
export { h } from 'preact';
export { renderToString } from 'preact-render-to-string';
export { scaleLinear } from 'd3-scale';
