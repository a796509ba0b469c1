import type * as z from 'zod';
import type { Source } from '../../diagnostics/source.ts';
import { bindBody, type Body, type BodyKind } from './definition.ts';
import { file } from './file.ts';
import { form } from './form.ts';
import { graphql } from './graphql.ts';
import { json } from './json.ts';
import { jsonFile } from './json-file.ts';
import { multipart } from './multipart.ts';
import { text } from './text.ts';
import { xml } from './xml.ts';
import { xmlFile } from './xml-file.ts';

/** Every kind of request body; a new one is a file and a line here. */
const kinds = [json, jsonFile, form, multipart, xml, xmlFile, text, file, graphql] as unknown as readonly BodyKind<
  unknown,
  string
>[];

/** The keys of a call that give it a body, with their schemas. */
export const bodyShape: Readonly<Record<string, z.ZodType>> = Object.fromEntries(
  kinds.flatMap(({ key, schema, also = {} }) =>
    Object.entries({ [key]: schema, ...also }).map(([name, each]) => [name, each.optional()]),
  ),
);

/** The bodies that a call says; at most one is allowed. */
export function bodiesOf(given: Readonly<Record<string, unknown>>, ownType: Source | undefined): readonly Body[] {
  return kinds.flatMap((kind) => {
    const { key, also, reads = [] } = kind;
    const main = given[key];
    if (main === undefined) return [];
    const beside = [...Object.keys(also ?? {}), ...reads];
    const value = beside.length > 0 ? { main, ...Object.fromEntries(beside.map((name) => [name, given[name]])) } : main;
    return [bindBody(kind, value, ownType)];
  });
}

/** Keys that only add to a body, and the keys of bodies that each goes with. */
export const keysBesideBodies: readonly Readonly<{ key: string; with: readonly string[] }>[] = [
  ...new Set(kinds.flatMap(({ also = {} }) => Object.keys(also))),
].map((key) => ({ key, with: kinds.filter(({ also = {} }) => key in also).map((kind) => kind.key) }));
