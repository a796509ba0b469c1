import { csv } from './csv.ts';
import type { ReportFormat } from './definition.ts';
import { har } from './har.ts';
import { html } from './html.ts';
import { json } from './json.ts';
import { junit } from './junit.ts';
import { markdown } from './markdown.ts';
import { tap } from './tap.ts';

/** Every form of report. A new one is a file here and an entry below. */
export const reportFormats: readonly ReportFormat[] = [html, junit, tap, har, csv, json, markdown];
