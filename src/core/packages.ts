/* eslint-disable @typescript-eslint/no-require-imports, no-restricted-globals -- an import would load them all at start */
import type * as Xmldom from '@xmldom/xmldom';
import type * as CsvParseStream from 'csv-parse';
import type * as CsvParse from 'csv-parse/sync';
import type * as IconvLite from 'iconv-lite';
import type * as CsvStringify from 'csv-stringify/sync';
import type * as Luxon from 'luxon';
import type * as OAuth from 'oauth4webapi';
import type * as Acorn from 'acorn';
import type * as JsYaml from 'js-yaml';
import type * as Crypto from 'node:crypto';
import type * as Zlib from 'node:zlib';
import type * as ToughCookie from 'tough-cookie';
import type * as JsonSchema from './json-schema-packages.ts';

/** Packages that few chains need and that are slow to load: each is loaded when it is first called for, and only here. */
export const luxon = () => require('luxon') as typeof Luxon;
export const iconvLite = () => require('iconv-lite') as typeof IconvLite;
export const csvStringify = () => require('csv-stringify/sync') as typeof CsvStringify;
export const csvParseStream = () => require('csv-parse') as typeof CsvParseStream;
export const csvParse = () => require('csv-parse/sync') as typeof CsvParse;
export const oauth4webapi = () => require('oauth4webapi') as typeof OAuth;
export const toughCookie = () => require('tough-cookie') as typeof ToughCookie;
export const xmldom = () => require('@xmldom/xmldom') as typeof Xmldom;
export const acorn = () => require('acorn') as typeof Acorn;
export const jsYaml = () => require('js-yaml') as typeof JsYaml;
export const jsonSchema = () => require('./json-schema-packages.ts') as typeof JsonSchema;

let digests: typeof Crypto | undefined;
/** Digests and signatures are all that is used of it; every call needs some. */
export const crypto = () => (digests ??= require('node:crypto') as typeof Crypto);

/** Compression of bodies. */
export const zlib = () => require('node:zlib') as typeof Zlib;

/** The part of the package that is used here; it has no types. */
export const httpLinkHeader = () =>
  require('http-link-header') as {
    parse(header: string): Readonly<{ refs: readonly Readonly<{ uri: string; rel?: string }>[] }>;
  };

type XPathResult<N> = Readonly<{ stringValue(): string; toArray?(): readonly N[]; num?: number; b?: boolean }>;
export type XPathExpression<N> = Readonly<{
  evaluate(options: { node: N; namespaces: Record<string, string> }): XPathResult<N>;
}>;

/** The part of the package that is used here: its types know only the short functions. */
export const xpath = <N>() => require('xpath') as { parse(expression: string): XPathExpression<N> };
