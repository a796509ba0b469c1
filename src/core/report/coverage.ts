import type { Contract } from '../contract/contract.ts';
import { DescriptionFault } from '../contract/documents.ts';
import { jsonShapesFor, responseFor } from '../contract/judge-response.ts';
import type { Operation } from '../contract/operation.ts';
import { Shaper, type Shapes } from '../contract/shape-at.ts';

import { readJson } from '../value/json-read.ts';
import { isList, isObject, type Value } from '../value/value.ts';
import type { ReadExchange } from './exchange.ts';
import type { RunSummary } from './run-summary.ts';

/** Something that is described, and how often it was seen; `isDescribed` is false of what came without being described. */
type Seen = Readonly<{ name: string; count: number; isDescribed: boolean }>;

export type OperationCoverage = Readonly<{
  name: string;
  id: string | undefined;
  requests: number;
  statuses: readonly Seen[];
  parameters: readonly Seen[];
  /** Members of JSON responses by their paths: `arrivals[].berth`. */
  members: readonly Seen[];
}>;

/** What runs exercised of a description, operation by operation. */
export type Coverage = Readonly<{
  file: string;
  title: string;
  exercised: number;
  operations: readonly OperationCoverage[];
}>;

/** Bodies of one operation that are looked into, and levels of them. */
const MAX_BODIES = 200;
const MAX_DEPTH = 6;

/** The coverage of each description that runs were held to; `contractOf` reads it. */
export function coverageOf(
  runs: readonly RunSummary[],
  contractOf: (file: string) => Contract | undefined,
): readonly Coverage[] {
  const counters = new Map<string, Counter>();
  for (const run of runs.filter(({ hasOperations }) => hasOperations)) {
    for (const each of run.exchanges) {
      const { operation } = each.sent;
      if (!operation) continue;
      const { file, name } = operation;
      let counter = counters.get(file);
      if (!counter) {
        const contract = contractOf(file);
        if (!contract) continue;
        counters.set(file, (counter = new Counter(contract)));
      }
      counter.add(name, each);
    }
  }
  return [...counters].map(([file, counter]) => counter.finish(file));
}

type Tally = {
  requests: number;
  statuses: Map<string, number>;
  parameters: Map<string, number>;
  members: Map<string, number>;
};

class Counter {
  private readonly tallies = new Map<string, Tally>();
  private readonly shaper: Shaper;

  constructor(private readonly contract: Contract) {
    this.shaper = new Shaper(contract.description);
  }

  add(name: string, exchange: ReadExchange): void {
    const status = exchange.answered?.status;
    let tally = this.tallies.get(name);
    if (!tally) {
      tally = { requests: 0, statuses: new Map(), parameters: new Map(), members: new Map() };
      this.tallies.set(name, tally);
    }
    if (status !== undefined) count(tally.statuses, String(status));
    if (tally.requests++ >= MAX_BODIES) return;
    const { url, headers } = exchange.sent.request;
    const query = URL.canParse(url) ? [...new URL(url).searchParams.keys()] : [];
    for (const each of new Set([...query, ...headers.map(([header]) => header.toLowerCase())]))
      count(tally.parameters, each);
    if (!exchange.answered) return;
    const bytes = exchange.body(exchange.answered.body);
    const body = exchange.answered.decoded === 'json' && bytes ? readJson(new TextDecoder().decode(bytes)) : undefined;
    if (body?.ok) for (const path of new Set(pathsOf(body.value))) count(tally.members, path);
  }

  finish(file: string): Coverage {
    const { operations, title } = this.contract.description;
    const all = operations.map((operation) => this.ofOperation(operation, this.tallies.get(operation.name)));
    return { file, title, exercised: all.filter(({ requests }) => requests > 0).length, operations: all };
  }

  private ofOperation(operation: Operation, tally: Tally | undefined): OperationCoverage {
    const { name, id } = operation;
    const plain = { name, id, requests: tally?.requests ?? 0, statuses: [], parameters: [], members: [] };
    if (!tally) return plain;
    try {
      const statuses = operation.responses.map(({ status }) => status);
      const described = operation.parameters.filter(({ in: place }) => place === 'query' || place === 'header');
      return {
        ...plain,
        statuses: this.statuses(operation, statuses, tally),
        parameters: described.map((each) => {
          const seen = each.in === 'header' ? each.name.toLowerCase() : each.name;
          return { name: each.name, count: tally.parameters.get(seen) ?? 0, isDescribed: true };
        }),
        members: this.members(operation, tally),
      };
    } catch (error) {
      if (!(error instanceof DescriptionFault)) throw error;
      return plain;
    }
  }

  private statuses(operation: Operation, described: readonly string[], { statuses }: Tally): readonly Seen[] {
    const seen = [...statuses].map(([status, times]) => {
      const response = responseFor(operation, Number(status));
      return { name: status, count: times, isDescribed: response !== undefined, as: response?.status };
    });
    const never = described.filter((each) => !seen.some(({ as }) => as === each));
    return [
      ...seen.map(({ name, count: times, isDescribed }) => ({ name, count: times, isDescribed })),
      ...never.map((name) => ({ name, count: 0, isDescribed: true })),
    ];
  }

  /** Members of the responses whose status came, and of what came beside them. */
  private members(operation: Operation, { statuses, members }: Tally): readonly Seen[] {
    const shapes = [...statuses.keys()].flatMap((status) => jsonShapesFor(operation, Number(status)));
    const described = new Set(shapes.length === 0 ? [] : this.paths(shapes, '', 0));
    return [
      ...[...described].map((name) => ({ name, count: members.get(name) ?? 0, isDescribed: true })),
      ...[...members].flatMap(([name, times]) =>
        described.has(name) || !this.isClosedTo(described, name) ? [] : [{ name, count: times, isDescribed: false }],
      ),
    ];
  }

  /** Whether what stands around a member is described, so that the member could be. */
  private isClosedTo(described: ReadonlySet<string>, name: string): boolean {
    const around = name.replace(/(?:\.[^.[\]]+|(?:\[\])+)$/, '').replace(/(?:\[\])+$/, '');
    return described.size > 0 && (around === name || around === '' || described.has(around));
  }

  private paths(shapes: Shapes, prefix: string, depth: number): readonly string[] {
    if (depth > MAX_DEPTH) return [];
    const items = this.shaper.items(shapes);
    if (items && items.length > 0) return this.paths(items, `${prefix}[]`, depth + 1);
    return this.shaper.names(shapes).flatMap((name) => {
      const path = prefix === '' ? name : `${prefix}.${name}`;
      const below = this.shaper.member(shapes, name).shapes ?? [];
      return [path, ...(below.length > 0 ? this.paths(below, path, depth + 1) : [])];
    });
  }
}

function count(into: Map<string, number>, name: string): void {
  into.set(name, (into.get(name) ?? 0) + 1);
}

/** The members of a value by path, items of lists as one. */
function pathsOf(value: Value, prefix = '', depth = 0): readonly string[] {
  if (depth > MAX_DEPTH) return [];
  if (isList(value)) return value.flatMap((item) => pathsOf(item, `${prefix}[]`, depth + 1));
  if (!isObject(value)) return [];
  return Object.entries(value).flatMap(([name, member]) => {
    const path = prefix === '' ? name : `${prefix}.${name}`;
    return [path, ...pathsOf(member, path, depth + 1)];
  });
}
