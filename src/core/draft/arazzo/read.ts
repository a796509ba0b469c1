import type { Documents, Placed } from '../../contract/documents.ts';
import type { Operation } from '../../contract/operation.ts';
import { membersOf, plainList, plainObject, plainObjects, plainText, type PlainObject } from '../../contract/plain.ts';
import { inputName } from '../../template/documentation.ts';
import { readJson } from '../../value/json-read.ts';
import type { Value } from '../../value/value.ts';
import { yamlScalar } from '../../yaml/quoting.ts';
import { mark } from '../marks.ts';
import { inputOfSchema } from '../operation-inputs.ts';
import type { DraftBody, DraftRequest } from '../request.ts';
import type { DraftInput, TakenRequest } from '../take.ts';
import { callLines } from '../write-call.ts';
import { conditionFromRuntime, fromRuntime, textFromRuntime, type Names } from './runtime-expressions.ts';

/** A chain that a workflow becomes; `notes` are what has no counterpart, which stands in it as comments too. */
export type WorkflowChain = Readonly<{
  name: string;
  about: string | undefined;
  inputs: readonly DraftInput[];
  steps: readonly Readonly<{ name: string; lines: readonly string[] }>[];
  outputs: readonly (readonly [name: string, expression: string])[];
  notes: readonly string[];
}>;

/** Finds the operation that a step names. */
type FindOperation = (step: PlainObject) => Operation | undefined;

/** The workflows of a document (Arazzo 1.0.1), each as a chain. */
export function chainsOfWorkflows(root: Placed, documents: Documents, find: FindOperation): readonly WorkflowChain[] {
  return plainObjects(plainObject(root.value)?.['workflows']).map((workflow) =>
    new Reading(workflow, root, documents, find).chain(),
  );
}

class Reading {
  private readonly notes: string[] = [];
  private readonly kept = new Map<string, string>();
  private readonly names: Names;

  constructor(
    private readonly workflow: PlainObject,
    private readonly root: Placed,
    private readonly documents: Documents,
    private readonly find: FindOperation,
  ) {
    const inputs = new Set(this.inputNames());
    const taken = new Map<string, number>();
    const outputs = plainObjects(workflow['steps']).flatMap((step) =>
      membersOf(step['outputs']).map(([output]) => [String(step['stepId'] as string), output] as const),
    );
    for (const [, output] of outputs) taken.set(inputName(output), (taken.get(inputName(output)) ?? 0) + 1);
    for (const [step, output] of outputs) {
      const plain = inputName(output);
      const isFree = taken.get(plain) === 1 && !inputs.has(plain);
      this.kept.set(`${step} ${output}`, isFree ? plain : inputName(`${step}_${output}`));
    }
    this.names = {
      ofOutput: (step, output) => this.kept.get(`${step} ${output}`) ?? inputName(`${step}_${output}`),
      ofInput: inputName,
    };
  }

  chain(): WorkflowChain {
    const { workflow } = this;
    for (const key of ['failureActions', 'successActions', 'dependsOn', 'parameters'])
      if (workflow[key] !== undefined) this.notes.push(`${key} of the workflow`);
    return {
      name: String(workflow['workflowId'] as string),
      about: plainText(workflow['summary']) ?? plainText(workflow['description']),
      inputs: this.inputs(),
      steps: plainObjects(workflow['steps']).map((step) => this.step(step)),
      outputs: membersOf(workflow['outputs']).flatMap(([name, value]) => {
        const expression = typeof value === 'string' ? fromRuntime(value, this.names) : undefined;
        if (expression === undefined) this.notes.push(`output ${name}: ${String(value)}`);
        return expression === undefined ? [] : [[inputName(name), expression] as const];
      }),
      notes: this.notes,
    };
  }

  private inputSchema(): PlainObject {
    const value = this.workflow['inputs'];
    return plainObject(this.documents.followed({ ...this.root, value }).value) ?? {};
  }

  private inputNames(): readonly string[] {
    return membersOf(this.inputSchema()['properties']).map(([name]) => inputName(name));
  }

  private inputs(): readonly DraftInput[] {
    return membersOf(this.inputSchema()['properties']).map(([name, value]) =>
      inputOfSchema(inputName(name), plainObject(value) ?? {}),
    );
  }

  private step(step: PlainObject): Readonly<{ name: string; lines: readonly string[] }> {
    const name = String(step['stepId'] as string);
    const operation = this.find(step);
    const open = (what: string) => {
      this.notes.push(`${name}: ${what}`);
      return `# no counterpart: ${what.replace(/\s+/g, ' ')}`;
    };
    if (!operation) {
      const what =
        plainText(step['operationId']) ?? plainText(step['operationPath']) ?? plainText(step['workflowId']) ?? 'step';
      return { name, lines: [`say: ${yamlScalar(`${name} is left out`)}`, open(`the operation ${what} is not known`)] };
    }
    const comments: string[] = [];
    const taken = this.request(step, operation, (what) => comments.push(open(what)));
    const note = (what: string) => comments.push(open(what));
    const about = plainText(step['description'])?.trim().split('\n')[0];
    const keeps = this.keeps(step, note);
    const [head = '', ...lines] = callLines(taken, name, NOTHING, {
      api: undefined,
      keeps,
      status: undefined,
      lines: this.criteria(step, note),
      hasApi: true,
    });
    return {
      name,
      lines: [head, ...(about === undefined ? [] : [`about: ${yamlScalar(about)}`]), ...lines, ...comments],
    };
  }

  private request(step: PlainObject, operation: Operation, open: (what: string) => void): TakenRequest {
    let url = operation.path;
    const query: (readonly [string, string])[] = [];
    const headers: (readonly [string, string])[] = [];
    plainList(step['parameters']).forEach((_each, i) => {
      const at = this.documents.followed({ ...this.root, value: plainList(step['parameters'])[i] });
      const { name, in: place, value } = plainObject(at.value) ?? {};
      const text = typeof value === 'string' ? textFromRuntime(value, this.names, mark) : JSON.stringify(value);
      if (typeof name !== 'string' || text === undefined) return open(`parameter ${String(name)}: ${String(value)}`);
      if (place === 'path') url = url.replace(`{${name}}`, text);
      else if (place === 'header') headers.push([name, text]);
      else if (place === 'cookie') open(`cookie ${name}`);
      else query.push([name, text]);
    });
    url = url.replace(/\{([^}]+)\}/g, (_all, name: string) => mark(inputName(name)));
    const body = this.body(plainObject(step['requestBody']), operation, open);
    const rawQuery = query.map(([name, value]) => `${encodeURIComponent(name)}=${value}`).join('&');
    const request: DraftRequest = {
      method: operation.method,
      url,
      query,
      rawQuery,
      headers,
      body: body?.draft,
      basic: undefined,
      timeout: undefined,
    };
    return { request, json: body?.json, credentials: [], basic: undefined };
  }

  private body(
    said: PlainObject | undefined,
    operation: Operation,
    open: (what: string) => void,
  ): Readonly<{ draft: DraftBody; json: Value | undefined }> | undefined {
    if (!said) return undefined;
    if (said['replacements'] !== undefined) open('replacements of the body');
    const type = plainText(said['contentType']) ?? operation.body?.content[0]?.type ?? 'application/json';
    const payload =
      typeof said['payload'] === 'string' && /json/i.test(type) ? parsed(said['payload']) : said['payload'];
    return bodyOf(this.filled(payload, open), type);
  }

  /** A payload with marks in place of its runtime expressions. */
  private filled(value: unknown, open: (what: string) => void): unknown {
    if (typeof value === 'string') {
      const text = textFromRuntime(value, this.names, mark);
      if (text === undefined) open(`value ${value}`);
      return text ?? value;
    }
    if (Array.isArray(value)) return value.map((item) => this.filled(item, open));
    const object = plainObject(value);
    if (!object) return value;
    return Object.fromEntries(Object.entries(object).map(([name, each]) => [name, this.filled(each, open)]));
  }

  private keeps(step: PlainObject, open: (what: string) => void): readonly (readonly [string, string])[] {
    return membersOf(step['outputs']).flatMap(([output, value]) => {
      const expression = typeof value === 'string' ? fromRuntime(value, this.names) : undefined;
      if (expression === undefined) open(`output ${output}: ${String(value)}`);
      return expression === undefined
        ? []
        : [[this.names.ofOutput(String(step['stepId'] as string), output), expression] as const];
    });
  }

  /** Criteria as expectations; with a retry that speaks of the body as what a poll waits for. */
  private criteria(step: PlainObject, open: (what: string) => void): readonly string[] {
    const conditions = plainObjects(step['successCriteria']).flatMap((each) => {
      const found = this.condition(each);
      if (found === undefined) open(`criterion ${String(each['condition'] as string)}`);
      return found ?? [];
    });
    const actions = [...plainObjects(step['onFailure']), ...plainObjects(step['onSuccess'])];
    const retry = actions.find(({ type }) => type === 'retry');
    for (const { type, name } of actions.filter((action) => action !== retry))
      open([type, name].filter((each) => typeof each === 'string').join(' '));
    return [...linesOfRetry(retry, conditions)];
  }

  private condition({ condition, type, context }: PlainObject): string | undefined {
    const text = String(condition as string);
    const kind = typeof type === 'object' ? plainText(plainObject(type)?.['type']) : plainText(type);
    if (kind === undefined || kind === 'simple') return conditionFromRuntime(text, this.names);
    const subject = typeof context === 'string' ? fromRuntime(context, this.names) : undefined;
    if (subject === undefined) return undefined;
    if (kind === 'regex') return `search(${subject}, '${text.replaceAll("'", "\\'")}')`;
    if (kind !== 'jsonpath' || !text.startsWith('$')) return undefined;
    return `length(${subject}${text.slice(1)}) > 0`;
  }
}

/** A body of a media type, with the value of one that is JSON. */
function bodyOf(filled: unknown, type: string): Readonly<{ draft: DraftBody; json: Value | undefined }> {
  if (/json/i.test(type)) {
    const text = JSON.stringify(filled ?? null);
    const read = readJson(text);
    return { draft: { kind: 'json', text, type }, json: read.ok ? read.value : undefined };
  }
  const fields = membersOf(filled).map(([name, value]) => [name, String(value)] as const);
  if (/x-www-form-urlencoded/i.test(type)) return { draft: { kind: 'form', fields, type: undefined }, json: undefined };
  return { draft: { kind: 'text', text: String(filled ?? ''), type }, json: undefined };
}

const NOTHING = { credentials: new Set<string>(), headers: new Map<string, string>() };

/** Conditions as expectations, and a retry: where nothing but the body says that it is not done yet it is a poll. */
function linesOfRetry(retry: PlainObject | undefined, conditions: readonly string[]): readonly string[] {
  const expecting = (all: readonly string[]) =>
    all.length === 0 ? [] : ['expect:', ...all.map((each) => `  - ${yamlScalar(each)}`)];
  if (!retry) return expecting(conditions);
  const limit = Number(retry['retryLimit'] ?? 1);
  const every = Number(retry['retryAfter'] ?? 1);
  const statuses = plainObjects(retry['criteria']).flatMap(
    ({ condition }) => /\$statusCode\s*==\s*(\d{3})/.exec(String(condition as string))?.[1] ?? [],
  );
  const ofBody = conditions.filter((each) => each.includes('$'));
  if (statuses.length > 0 || ofBody.length === 0) {
    const on = statuses.length > 0 ? `, on: [${statuses.join(', ')}]` : '';
    return [...expecting(conditions), `retry: { tries: ${limit + 1}, wait: ${every}s${on} }`];
  }
  const until = yamlScalar(ofBody.join(' && '), true);
  return [
    ...expecting(conditions.filter((each) => !each.includes('$'))),
    `poll: { until: ${until}, every: ${every}s, within: ${Math.max(1, limit * every)}s }`,
  ];
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text) as unknown;
  } catch {
    return text;
  }
}
