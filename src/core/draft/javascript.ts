import type { CallExpression, Expression, MemberExpression, Node, ObjectExpression, TemplateLiteral } from 'acorn';

/** A value that a program writes down; an object is a map, in the order of its members. */
export type Known = string | number | boolean | null | undefined | readonly Known[] | Map<string, Known> | Unknown;

/** What only a run of the program would tell, by a name for it. */
export type Unknown = Readonly<{ unknown: string }>;

export function isUnknown(value: Known): value is Unknown {
  return typeof value === 'object' && value !== null && 'unknown' in value;
}

/** Functions that give back what they are given, as far as a sample is concerned. */
const AS_GIVEN: ReadonlySet<string> = new Set(['String', 'Headers', 'URL', 'encodeURI']);

/** The values of a program that can be known without running it: literals, templates, constants, a few functions. */
export class Constants {
  readonly notes: string[] = [];
  private readonly values = new Map<string, Expression>();
  private readonly forms = new Set<string>();

  constructor(program: Node) {
    visit(program, (node) => {
      if (node.type !== 'VariableDeclarator') return;
      const { id, init } = node as Node & { id: Node & { name?: string }; init: Expression | null };
      if (id.type === 'Identifier' && init) this.values.set(id.name!, init);
    });
  }

  note(text: string): void {
    if (!this.notes.includes(text)) this.notes.push(text);
  }

  /** Names the members of an object that have no counterpart. */
  noteOthers(given: ReadonlyMap<string, Known>, known: readonly string[]): void {
    for (const name of given.keys()) if (!known.includes(name)) this.note(`${name} of fetch is ignored`);
  }

  /** A text; what is not known in it stands as a placeholder of documentation. */
  textOf(node: Expression): string | undefined {
    const value = this.valueOf(node);
    return value === undefined ? undefined : this.shown(value);
  }

  shown(value: Known): string {
    if (!isUnknown(value)) return typeof value === 'string' ? value : textOfValue(value);
    return `{{${value.unknown}}}`;
  }

  isForm(value: Known): boolean {
    return typeof value === 'string' && this.forms.has(value);
  }

  valueOf(node: Expression, depth = 0): Known {
    if (depth > 50) return this.unknown('value');
    const of = (inner: Expression) => this.valueOf(inner, depth + 1);
    switch (node.type) {
      case 'Literal':
        return node.value instanceof RegExp || typeof node.value === 'bigint'
          ? this.unknown('value')
          : (node.value as Known);
      case 'TemplateLiteral':
        return this.template(node, of);
      case 'Identifier':
        return this.constant(node.name, of);
      case 'ObjectExpression':
        return this.object(node, of);
      case 'ArrayExpression':
        return node.elements.map((each) => (each && each.type !== 'SpreadElement' ? of(each) : undefined));
      case 'BinaryExpression':
        if (node.operator !== '+' || node.left.type === 'PrivateIdentifier') return this.unknown('value');
        return this.shown(of(node.left)) + this.shown(of(node.right));
      case 'UnaryExpression':
        return node.operator === '-' ? -Number(of(node.argument)) : this.unknown('value');
      case 'AwaitExpression':
        return of(node.argument);
      case 'MemberExpression':
        return this.unknown(memberName(node));
      case 'CallExpression':
      case 'NewExpression':
        return this.called(node as CallExpression, of);
      default:
        return this.unknown('value');
    }
  }

  private unknown(name: string): Unknown {
    this.note(`{{${name}}} is not known without running the code`);
    return { unknown: name };
  }

  private constant(name: string, of: (node: Expression) => Known): Known {
    if (name === 'undefined') return undefined;
    const init = this.values.get(name);
    const value = init && of(init);
    return value === undefined || isUnknown(value) ? this.unknown(name) : value;
  }

  private template({ quasis, expressions }: TemplateLiteral, of: (node: Expression) => Known): string {
    return quasis
      .map(({ value }, i) => (value.cooked ?? value.raw) + (expressions[i] ? this.shown(of(expressions[i])) : ''))
      .join('');
  }

  private object({ properties }: ObjectExpression, of: (node: Expression) => Known): Known {
    const members = new Map<string, Known>();
    for (const property of properties) {
      if (property.type !== 'Property' || property.computed) {
        this.note('a spread or computed member is ignored');
        continue;
      }
      const { key } = property;
      const name = key.type === 'Identifier' ? key.name : key.type === 'Literal' ? String(key.value) : '';
      members.set(name, of(property.value));
    }
    return members;
  }

  private called({ callee, arguments: given }: CallExpression, of: (node: Expression) => Known): Known {
    const name = calleeName(callee as Expression);
    const [first] = given as Expression[];
    if (name === 'toString' && callee.type === 'MemberExpression') return of(callee.object as Expression);
    const value = first ? of(first) : undefined;
    if (name === 'JSON.stringify') return jsonOf(value, this);
    if (name === 'URLSearchParams') return this.form(value);
    if (name === 'encodeURIComponent') return isUnknown(value) ? value : encodeURIComponent(this.shown(value));
    if (name === 'btoa' && typeof value === 'string') return btoa(value);
    return AS_GIVEN.has(name) ? value : this.unknown(name.split('.').at(-1)!);
  }

  private form(value: Known): Known {
    if (!(value instanceof Map)) return value;
    const text = new URLSearchParams([...value].map(([name, each]) => [name, this.shown(each)])).toString();
    this.forms.add(text);
    return text;
  }
}

/** `token` of `process.env.token` and `config.token`. */
function memberName({ property }: MemberExpression): string {
  if (property.type === 'Identifier') return property.name;
  return property.type === 'Literal' ? String(property.value) : 'value';
}

function calleeName(callee: Expression): string {
  if (callee.type === 'Identifier') return callee.name;
  if (callee.type !== 'MemberExpression') return 'value';
  const { object, property } = callee;
  const name = property.type === 'Identifier' ? property.name : 'value';
  return object.type === 'Identifier' && object.name === 'JSON' ? `JSON.${name}` : name;
}

/** What `JSON.stringify` gives; what is not known becomes a text. */
function jsonOf(value: Known, constants: Constants): string {
  return JSON.stringify(plain(value, constants)) ?? '';
}

function plain(value: Known, constants: Constants): unknown {
  if (isUnknown(value)) return constants.shown(value);
  if (value instanceof Map) return Object.fromEntries([...value].map(([name, each]) => [name, plain(each, constants)]));
  return Array.isArray(value) ? value.map((each) => plain(each as Known, constants)) : value;
}

function textOfValue(value: Exclude<Known, string | Unknown>): string {
  return value instanceof Map || Array.isArray(value) ? '[object Object]' : String(value);
}

/** Goes through a tree in the order of its text. */
export function visit(node: Node, seen: (node: Node) => void): void {
  seen(node);
  for (const value of Object.values(node)) {
    for (const each of Array.isArray(value) ? value : [value])
      if (typeof each === 'object' && each !== null && typeof (each as Node).type === 'string')
        visit(each as Node, seen);
  }
}
