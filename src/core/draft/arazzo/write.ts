import type { Contract } from '../../contract/contract.ts';
import { segmentsOf } from '../../contract/find-operation.ts';
import type { Operation } from '../../contract/operation.ts';
import { pointerPart } from '../../value/json-pointer.ts';
import type { CallStep, Chain, InputDefinition, Step } from '../../chain/model.ts';
import { inputTypes } from '../../chain/input-types.ts';
import { sourceOf } from '../../chain/steps/inside.ts';
import type { Expectation } from '../../http/expectation.ts';
import type { Named } from '../../schema/leaves.ts';
import { plainTextOf, type Placeholder, type TextTemplate, type ValueTemplate } from '../../template/template.ts';
import { toPlain } from '../../value/plain.ts';
import { pathPieces, pathSegments, queryPieces } from '../../template/target-pieces.ts';
import { templateOf } from './path-template.ts';
import { conditionToRuntime, toRuntime } from './runtime-expressions.ts';

/** Where the calls of a chain are described: the name and file of a description, and its operations. */
type Described = Readonly<{ name: string; url: string; contract: Contract | undefined; base: string }>;

/** A document, and what of the chain has no counterpart in it. */
type Document = Readonly<{ document: object; notes: readonly string[] }>;

/** A chain as a document with one workflow (Arazzo 1.0.1). */
export function documentOf(chain: Chain, described: Described): Document {
  return new Writing(chain, described).document();
}

class Writing {
  private readonly notes: string[] = [];
  /** The step that keeps a name. */
  private readonly keptBy = new Map<string, string>();
  private readonly inputs: ReadonlySet<string>;

  constructor(
    private readonly chain: Chain,
    private readonly described: Described,
  ) {
    this.inputs = new Set(chain.inputs.map(({ name }) => name));
  }

  document(): Document {
    const { chain, described } = this;
    const steps = chain.steps.flatMap((step) => this.step(step));
    if (chain.cleanup.length > 0) this.notes.push('cleanup');
    const outputs = chain.outputs.flatMap(({ name, value }) => {
      const text = value.tree && toRuntime(value.tree, this.runtime);
      if (text === undefined) this.notes.push(`output ${name}: ${value.source.text.trim()}`);
      return text === undefined ? [] : [[name, text] as const];
    });
    const workflow = {
      workflowId: idOf(chain.name),
      ...(chain.about === undefined ? {} : { summary: chain.about }),
      ...(chain.inputs.length === 0 ? {} : { inputs: inputSchema(chain.inputs) }),
      steps,
      ...(outputs.length === 0 ? {} : { outputs: Object.fromEntries(outputs) }),
    };
    const document = {
      arazzo: '1.0.1',
      info: { title: chain.name, version: '1.0.0', ...(chain.about === undefined ? {} : { summary: chain.about }) },
      sourceDescriptions: [{ name: described.name, url: described.url, type: 'openapi' }],
      workflows: [workflow],
    };
    return { document, notes: this.notes };
  }

  private readonly runtime = (name: string): string | undefined => {
    const step = this.keptBy.get(name);
    if (step !== undefined) return `$steps.${step}.outputs.${name}`;
    return this.inputs.has(name) ? `$inputs.${name}` : undefined;
  };

  private step(step: Step): readonly object[] {
    if (step.kind !== 'call') {
      this.notes.push(`the step ${step.kind} ${sourceOf(step)?.text.trim() ?? ''}`.trim());
      return [];
    }
    const open = (what: string) => void this.notes.push(`${step.name}: ${what}`);
    const operation = this.operationOf(step);
    const made = {
      stepId: idOf(step.name),
      ...this.reference(step, operation),
      ...nonEmpty('parameters', this.parameters(step, operation, open)),
      ...this.body(step, open),
      ...nonEmpty('successCriteria', this.criteria(step, open)),
      ...this.retry(step),
      ...this.outputs(step, open),
    };
    this.unsaid(step, open);
    return [made];
  }

  private operationOf({ request: { line } }: CallStep): Operation | undefined {
    return line && this.described.contract?.index.find(line.method, this.described.base, pathSegments(line.target));
  }

  private reference({ request: { line } }: CallStep, operation: Operation | undefined): object {
    if (operation?.id !== undefined) return { operationId: operation.id };
    const path = operation?.path ?? templateOf(line!.target);
    const method = line!.method.toLowerCase();
    return { operationPath: `{$sourceDescriptions.${this.described.name}.url}#/paths${pointerPart(path)}/${method}` };
  }

  private parameters(step: CallStep, operation: Operation | undefined, open: Open): readonly object[] {
    const { line, query, headers } = step.request;
    const own = operation ? segmentsOf(operation.path) : segmentsOf(templateOf(line!.target));
    const texts = pathPieces(line!.target);
    const from = texts.length - own.length;
    const inPath = own.flatMap((segment, i): readonly object[] => {
      const name = /^\{([^}]+)\}$/.exec(segment)?.[1];
      if (name === undefined) return [];
      const value = this.text(texts[from + i] ?? [], open);
      return value === undefined ? [] : [{ name, in: 'path', value }];
    });
    const ofTarget = queryPieces(line!.target).flatMap(([name, pieces]): readonly object[] => {
      const value = this.text(pieces, open);
      return value === undefined ? [] : [{ name, in: 'query', value }];
    });
    return [...inPath, ...ofTarget, ...this.named(query, 'query', open), ...this.named(headers, 'header', open)];
  }

  private named(entries: Named<ValueTemplate>, place: 'query' | 'header', open: Open): readonly object[] {
    return entries.flatMap(({ name, value, whole }): readonly object[] => {
      if (whole) return (open(`${place} ${name}`), []);
      const written = this.value(value, open);
      return written === undefined ? [] : [{ name, in: place, value: written }];
    });
  }

  /** A value with runtime expressions in place of its placeholders. */
  private value(template: ValueTemplate, open: Open): unknown {
    switch (template.kind) {
      case 'constant':
        return toPlain(template.value);
      case 'text':
        return this.text(template.pieces, open);
      case 'list':
        return template.items.map((item) => this.value(item, open));
      case 'object':
        return Object.fromEntries(template.members.map(([name, each]) => [name, this.value(each, open)]));
    }
  }

  private text(pieces: readonly (string | Placeholder)[], open: Open): string | undefined {
    const parts = pieces.map((piece) => {
      if (typeof piece === 'string') return piece;
      const found = toRuntime(piece.node, this.runtime);
      if (found === undefined) open(piece.source.text.slice(...piece.range));
      return found && (pieces.length === 1 ? found : `{${found}}`);
    });
    return parts.includes(undefined) ? undefined : parts.join('');
  }

  private body({ request: { body } }: CallStep, open: Open): object {
    if (!body) return {};
    const fields = body.named;
    const payload = body.json ? this.value(body.json, open) : this.payload(body.key, fields, body.texts, open);
    return payload === undefined ? {} : { requestBody: { contentType: body.type('').split(';')[0]!, payload } };
  }

  private payload(
    key: string,
    fields: readonly Readonly<{ name: string; value: ValueTemplate }>[],
    texts: readonly TextTemplate[],
    open: Open,
  ): unknown {
    if (key === 'form') return Object.fromEntries(fields.map(({ name, value }) => [name, this.value(value, open)]));
    if (key === 'text' || key === 'xml') return this.text(texts[0]?.pieces ?? [], open);
    open(`the body ${key}`);
    return undefined;
  }

  private criteria({ expect, poll }: CallStep, open: Open): readonly object[] {
    const until = poll?.until.tree ? [{ tree: poll.until.tree, text: poll.until.source.text }] : [];
    const all = [...expect.flatMap((each) => conditionOf(each, open)), ...until];
    return all.flatMap(({ tree, text }) => {
      const condition = conditionToRuntime(tree, text, this.runtime);
      if (condition === undefined) open(`expectation ${text.trim()}`);
      return condition === undefined ? [] : [{ condition }];
    });
  }

  private retry({ name, poll, retry }: CallStep): object {
    const again = (everyMs: number, limit: number, criteria: readonly object[]) => ({
      onFailure: [
        {
          name: `${idOf(name)}-again`,
          type: 'retry',
          retryAfter: everyMs / 1000,
          retryLimit: limit,
          ...nonEmpty('criteria', criteria),
        },
      ],
    });
    if (poll) return again(poll.every.firstMs, Math.max(1, Math.round(poll.withinMs / poll.every.firstMs)), []);
    if (!retry) return {};
    const statuses = retry.on.filter((each) => typeof each === 'number');
    return again(
      retry.wait.firstMs,
      retry.tries - 1,
      statuses.map((status) => ({ condition: `$statusCode == ${status}` })),
    );
  }

  private outputs({ name, keep }: CallStep, open: Open): object {
    const kept = keep.flatMap((entry) => {
      const text = entry.value.tree && toRuntime(entry.value.tree, this.runtime);
      if (text === undefined) open(`keep ${entry.name}: ${entry.value.source.text.trim()}`);
      else this.keptBy.set(entry.name, idOf(name));
      return text === undefined ? [] : [[entry.name, text] as const];
    });
    return kept.length === 0 ? {} : { outputs: Object.fromEntries(kept) };
  }

  private unsaid(step: CallStep, open: Open): void {
    const said = {
      when: step.when,
      paging: step.paging,
      undo: step.undo,
      save: step.save,
      'until-event': step.untilEvent,
      'on-status': step.onStatus[0],
    };
    for (const [key, value] of Object.entries(said)) if (value !== undefined) open(key);
  }
}

type Open = (what: string) => void;

function nonEmpty(key: string, list: readonly object[]): object {
  return list.length === 0 ? {} : { [key]: list };
}

/** Ids are of letters, digits, hyphens and underscores (section 4.6.4). */
function idOf(name: string): string {
  return name.replace(/[^A-Za-z0-9_-]+/g, '-').replace(/^-+|-+$/g, '') || 'chain';
}

function conditionOf(expectation: Expectation, open: Open) {
  if (expectation.form !== 'that') {
    open(`expectation ${expectation.form}`);
    return [];
  }
  const { tree, source } = expectation.expression;
  return tree ? [{ tree, text: source.text }] : [];
}

const TYPES: Readonly<Record<string, object>> = {
  integer: { type: 'integer' },
  number: { type: 'number' },
  boolean: { type: 'boolean' },
  date: { type: 'string', format: 'date' },
};

function inputSchema(inputs: readonly InputDefinition[]): object {
  const properties = inputs.map((input) => {
    const fallback =
      input.default?.kind === 'constant'
        ? toPlain(input.default.value)
        : input.default?.kind === 'text'
          ? plainTextOf(input.default)
          : undefined;
    return [
      input.name,
      {
        ...(TYPES[input.type] ?? { type: 'string' }),
        description: input.about ?? inputTypes[input.type].what,
        ...(fallback === undefined ? {} : { default: fallback }),
      },
    ] as const;
  });
  const required = inputs.filter((input) => !input.default && !input.optional).map(({ name }) => name);
  return { type: 'object', ...(required.length > 0 ? { required } : {}), properties: Object.fromEntries(properties) };
}
