import type { Contract } from './contract.ts';
import type { Description } from './description.ts';
import type { PlaceInFile, Placed } from './documents.ts';
import type { MediaType, Operation, Parameter } from './operation.ts';
import { plainList, plainObject } from './plain.ts';
import { Shaper, type Shapes } from './shape-at.ts';

/** One difference between two descriptions of an API. */
export type Change = Readonly<{
  /** `GET /vessels/{id}`. */
  operation: string;
  text: string;
  /** Whether what was right before may be wrong now. */
  mayBreak: boolean;
  /** Where it stands: in the second description, or in the first where it is gone. */
  at: PlaceInFile;
}>;

/** Levels of schemas that are compared. */
const MAX_DEPTH = 8;

/** What is different in the second of two descriptions, operation by operation. Throws `DescriptionFault`. */
export function changesBetween(before: Contract, after: Contract): readonly Change[] {
  const old = new Map(before.description.operations.map((each) => [shapeOfName(each), each]));
  const now = new Map(after.description.operations.map((each) => [shapeOfName(each), each]));
  const gone = [...old].filter(([key]) => !now.has(key));
  const added = [...now].filter(([key]) => !old.has(key));
  return [
    ...gone.map(([, { name, at }]) => ({ operation: name, text: 'is gone', mayBreak: true, at })),
    ...[...now].flatMap(([key, operation]) => {
      const was = old.get(key);
      return was ? new Comparing(before.description, after.description, operation).compare(was) : [];
    }),
    ...added.map(([, { name, at }]) => ({ operation: name, text: 'is new', mayBreak: false, at })),
  ];
}

/** The name of an operation, whatever its path calls its parameters. */
function shapeOfName({ name }: Operation): string {
  return name.replace(/\{[^}]*\}/g, '{}');
}

class Comparing {
  private readonly changes: Change[] = [];
  private readonly old: Shaper;
  private readonly now: Shaper;

  constructor(
    before: Description,
    after: Description,
    private readonly operation: Operation,
  ) {
    this.old = new Shaper(before);
    this.now = new Shaper(after);
  }

  compare(was: Operation): readonly Change[] {
    const { operation } = this;
    if (operation.isDeprecated && !was.isDeprecated) this.add('is deprecated now', false, operation.at);
    this.parameters(was);
    this.bodies(was);
    this.responses(was);
    return this.changes;
  }

  private add(text: string, mayBreak: boolean, at: PlaceInFile): void {
    this.changes.push({ operation: this.operation.name, text, mayBreak, at });
  }

  private parameters(was: Operation): void {
    const key = (each: Parameter) => (each.in === 'path' ? `path ${this.positionOf(each)}` : `${each.in} ${each.name}`);
    const old = new Map(was.parameters.map((each) => [key(each), each]));
    for (const parameter of this.operation.parameters) {
      const before = old.get(key(parameter));
      old.delete(key(parameter));
      const what = `the ${parameter.in === 'header' ? 'header' : 'parameter'} ${parameter.name}`;
      if (!before)
        this.add(`${what} is new${parameter.required ? ', and required' : ''}`, parameter.required, parameter.at);
      else {
        if (parameter.required && !before.required) this.add(`${what} is required now`, true, parameter.at);
        if (before.schema && parameter.schema) this.schemas(what, [before.schema], [parameter.schema], 'request', 0);
      }
    }
    for (const { in: place, name, at } of old.values())
      if (place !== 'path') this.add(`the ${place === 'header' ? 'header' : 'parameter'} ${name} is gone`, true, at);
  }

  private positionOf({ name }: Parameter): number {
    return this.operation.path.split('/').indexOf(`{${name}}`);
  }

  private bodies(was: Operation): void {
    const { body, at } = this.operation;
    const old = was.body;
    if (!body && old) return this.add('takes no body any more', true, at);
    if (!body) return;
    if (!old) return this.add(`takes a body now${body.required ? ', which is required' : ''}`, body.required, body.at);
    if (body.required && !old.required) this.add('requires its body now', true, body.at);
    this.contents('the body', old.content, body.content, 'request', body.at);
  }

  private responses(was: Operation): void {
    const old = new Map(was.responses.map((each) => [each.status, each]));
    for (const response of this.operation.responses) {
      const before = old.get(response.status);
      old.delete(response.status);
      if (!before) this.add(`the status ${response.status} is new`, false, response.at);
      else this.contents(`the response ${response.status}`, before.content, response.content, 'response', response.at);
    }
    for (const { status, at } of old.values()) this.add(`the status ${status} is gone`, true, at);
  }

  private contents(
    what: string,
    before: readonly MediaType[],
    after: readonly MediaType[],
    side: Side,
    at: PlaceInFile,
  ): void {
    for (const old of before) {
      const now = after.find(({ type }) => type === old.type);
      if (!now) this.add(`${what} has no ${old.type} any more`, true, at);
      else if (old.schema && now.schema) this.schemas(what, [old.schema], [now.schema], side, 0);
    }
    for (const { type, at: place } of after)
      if (!before.some((old) => old.type === type)) this.add(`${what} may be ${type} now`, false, place);
  }

  /** Types, choices and members: narrower requests and wider responses may break who relies on what was. */
  private schemas(what: string, before: Shapes, after: Shapes, side: Side, depth: number): void {
    const [at] = after;
    if (depth > MAX_DEPTH || before.length === 0 || !at) return;
    const [oldType, newType] = [this.old.typeWords(before), this.now.typeWords(after)];
    if (oldType !== newType && oldType !== '' && newType !== '')
      this.add(`${what} is ${newType} now, and was ${oldType}`, true, at);
    const [oldItems, newItems] = [this.old.items(before), this.now.items(after)];
    if (oldItems?.length && newItems?.length) this.schemas(`${what}[]`, oldItems, newItems, side, depth + 1);
    this.members(what, [before, after], side, depth);
  }

  private members(what: string, [before, after]: readonly [Shapes, Shapes], side: Side, depth: number): void {
    const at = after[0]!;
    const [oldNames, newNames] = [this.old.names(before), this.now.names(after)];
    const below = (shaper: Shaper, shapes: Shapes, name: string) => shaper.member(shapes, name).shapes ?? [];
    for (const name of oldNames) {
      const path = memberPath(what, name);
      if (!newNames.includes(name)) {
        this.add(`${path} is gone`, true, at);
        continue;
      }
      this.requirement(path, name, [before, after], side, at);
      this.schemas(path, below(this.old, before, name), below(this.now, after, name), side, depth + 1);
    }
    for (const name of newNames.filter((each) => !oldNames.includes(each))) {
      const isNeeded = side === 'request' && this.isRequired(this.now, after, name);
      this.add(`${memberPath(what, name)} is new${isNeeded ? ', and required' : ''}`, isNeeded, at);
    }
  }

  private requirement(
    path: string,
    name: string,
    [before, after]: readonly [Shapes, Shapes],
    side: Side,
    at: PlaceInFile,
  ): void {
    const [was, is] = [this.isRequired(this.old, before, name), this.isRequired(this.now, after, name)];
    if (was === is) return;
    if (is) this.add(`${path} is required now`, side === 'request', at);
    else this.add(`${path} is not required any more`, side === 'response', at);
  }

  private isRequired(shaper: Shaper, shapes: Shapes, name: string): boolean {
    return shaper.parts(shapes).some((each: Placed) => plainList(plainObject(each.value)?.['required']).includes(name));
  }
}

type Side = 'request' | 'response';

/** `the response 200: arrivals[].berth`. */
function memberPath(what: string, name: string): string {
  const isInside = what.includes(': ') || what.endsWith('[]');
  if (!isInside) return `${what}: ${name}`;
  return what.includes(': ') ? `${what}.${name}` : `${what.replace(/\[\]$/, ': []')}.${name}`;
}
