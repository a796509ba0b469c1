import type { Contract } from '../../contract/contract.ts';
import { DescriptionFault } from '../../contract/documents.ts';
import { segmentsOf, type Segment } from '../../contract/find-operation.ts';
import { requestDepartures, type RequestDeparture } from '../../contract/judge-request.ts';
import { responseFor } from '../../contract/judge-response.ts';
import type { Operation } from '../../contract/operation.ts';
import { wholeOf, type Source } from '../../diagnostics/source.ts';
import { adviceOf } from '../../diagnostics/suggest.ts';
import { ungrouped, type Node } from '../../expression/model.ts';
import type { ContractUse, Endpoint } from '../../http/endpoint.ts';
import { shownUrl } from '../../http/shown-request.ts';
import { splitUrl } from '../../http/message.ts';
import type { Target } from '../../template/request-line.ts';
import { endpointOfUrl, urlOf } from '../endpoints.ts';
import type { CallStep } from '../model.ts';
import type { Place } from '../place.ts';
import { eachNode } from '../walk.ts';
import { pathSegments } from '../../template/target-pieces.ts';
import { knownRequest, sourceOfPart } from './contract-request.ts';
import { pathsThatCannotBe } from './contract-paths.ts';
import type { Rule, RuleContext } from './rule.ts';

/** A call that belongs to an operation of a description. */
type Held = Readonly<{ call: CallStep; use: ContractUse; contract: Contract; operation: Operation }>;

/** Calls fit the description that their API is held to: operation, parameters, body, what is read of the response. */
export const contractsHold: Rule = (context) => {
  let held: Held | undefined;
  return {
    call(step, place) {
      held = undefined;
      guarded(context, step, place, () => (held = heldBy(step, place, context)));
      const now = held;
      if (now) guarded(context, step, place, () => checkRequest(now, place, context));
    },
    expression(tree, source, place) {
      const now = held;
      if (!now || !place.response || place.step !== now.call.name) return;
      guarded(context, now.call, place, () => checkRead(now, tree, source, context));
    },
  };
};

/** A broken part of a description is told at the call that needs it, as a warning: all else is checked all the same. */
function guarded(
  { reportIn, contractOf }: RuleContext,
  call: CallStep,
  { endpoint }: Place,
  check: () => unknown,
): void {
  try {
    check();
  } catch (error) {
    if (!(error instanceof DescriptionFault)) throw error;
    const source = call.request.line?.source ?? call.nameSource;
    const contract = contractOf(endpoint!.contract!.file.text);
    const place = 'message' in contract ? error.at.file : contract.placeText(error.at);
    const message = `${place}: ${error.message}`;
    const left = 'This part of the description is not checked.';
    reportIn(source, {
      code: 'invalid-contract',
      level: 'warning',
      range: wholeOf(source),
      message,
      advice: error.advice === undefined ? left : `${error.advice} ${left}`,
    });
  }
}

/** A call as the description of its API sees it. */
type Described = Readonly<{
  use: ContractUse;
  contract: Contract;
  base: string;
  segments: readonly Segment[];
  operation: Operation | undefined;
}>;

/** The operation that a call belongs to, in the description that its API is held to. */
export function describedCall(
  { request: { line } }: CallStep,
  endpoint: Endpoint | undefined,
  contractOf: RuleContext['contractOf'],
): Described | undefined {
  const use = endpoint?.contract;
  const segments = use && line ? segmentsBelow(line.target, urlOf(line), endpoint) : undefined;
  if (!use || !line || !segments) return undefined;
  // What is wrong with the file itself is told in the project file.
  const contract = contractOf(use.file.text);
  if ('message' in contract) return undefined;
  const base = splitUrl(shownUrl(endpoint)).path;
  return { use, contract, base, segments, operation: contract.index.find(line.method, base, segments) };
}

function heldBy(call: CallStep, { endpoint }: Place, { contractOf, reportIn }: RuleContext): Held | undefined {
  const described = describedCall(call, endpoint, contractOf);
  const { line } = call.request;
  if (!described || !line) return undefined;
  const { use, contract, base, segments, operation } = described;
  if (operation) return { call, use, contract, operation };
  const path = `/${segments.map((each) => each ?? '{...}').join('/')}`;
  const methods = contract.index.methodsAt(base, segments);
  const near = contract.index.nearest(line.method, path);
  const advice =
    methods.length > 0
      ? `That path has ${methods.join(', ')}.`
      : near
        ? `Did you mean ${near.name}?`
        : listAdvice(contract);
  const message = `${line.method} ${path} is not an operation of ${contract.description.file}`;
  reportIn(line.source, { ...mismatch(use), range: wholeOf(line.source), message, advice });
  return undefined;
}

/** The path of a call below the URL of its API; nothing where that is not known, or where it goes elsewhere. */
function segmentsBelow(target: Target, url: string, endpoint: Endpoint): readonly Segment[] | undefined {
  if (target.kind === 'path') return pathSegments(target);
  const below = target.kind === 'absolute' ? endpointOfUrl(url, [endpoint])?.path : undefined;
  return below === undefined ? undefined : segmentsOf(below);
}

function listAdvice({ description }: Contract): string {
  return `To list its operations: batharon draft ${description.file} --list`;
}

function mismatch({ mode }: ContractUse) {
  return { code: 'contract-mismatch' as const, ...(mode === 'warn' ? { level: 'warning' as const } : {}) };
}

function checkRequest({ call, use, contract, operation }: Held, place: Place, context: RuleContext): void {
  const found = requestDepartures(contract, operation, knownRequest(call, operation, place));
  // A place is told once, with all that is wrong there.
  const byPlace = new Map<string, Readonly<{ source: Source; all: RequestDeparture[] }>>();
  for (const each of found) {
    const source = sourceOfPart(call, each.part, each.name);
    const key = source.locate(wholeOf(source)).join();
    const known = byPlace.get(key);
    if (known) known.all.push(each);
    else byPlace.set(key, { source, all: [each] });
  }
  for (const { source, all } of byPlace.values()) {
    const [first, ...more] = all;
    const where = (each: RequestDeparture) => `${each.message} (${contract.placeText(each.at)})`;
    const message = `${operation.name}: ${where(first!)}`;
    const list = more.map((each) => `${where(each)}${each.advice === undefined ? '' : `. ${each.advice}`}`);
    context.reportIn(source, {
      ...mismatch(use),
      range: wholeOf(source),
      message,
      ...(list.length > 0 ? { list } : {}),
      ...adviceOf(first!.advice),
    });
  }
}

/** What an expression reads of the response, and which status it expects. */
function checkRead(held: Held, tree: Node, source: Source, { reportIn }: RuleContext): void {
  const { contract, operation, use } = held;
  for (const { range, message, advice, at } of pathsThatCannotBe(tree, source.text, contract, operation))
    reportIn(source, {
      ...mismatch(use),
      range,
      message: `${message} (${contract.placeText(at)})`,
      ...adviceOf(advice),
    });
  eachNode(tree, (node) => {
    for (const { status, range } of statusesIn(node)) {
      if (responseFor(operation, status)) continue;
      const known = operation.responses.map((each) => each.status).join(', ');
      const message = `${operation.name} does not describe the status ${status}`;
      reportIn(source, { ...mismatch(use), range, message, advice: `It describes ${known || 'none'}.` });
    }
  });
}

/** Statuses that an expression compares with: `status == 200`, `status in [200, 409]`. */
function statusesIn(node: Node): readonly Readonly<{ status: number; range: readonly [number, number] }>[] {
  if (node.kind !== 'binary' || !['==', 'in'].includes(node.operator) || !isStatus(node.left)) return [];
  const right = ungrouped(node.right);
  const all = right.kind === 'list' ? right.items : [right];
  return all.flatMap((each) => {
    const literal = ungrouped(each);
    return literal.kind === 'literal' && typeof literal.value === 'number'
      ? [{ status: literal.value, range: each.range }]
      : [];
  });
}

function isStatus(node: Node): boolean {
  const path = ungrouped(node);
  return path.kind === 'path' && path.start.kind === 'name' && path.start.name === 'status';
}
