import { DescriptionFault, type Documents, type Placed } from './documents.ts';
import { membersOf, plainList, plainObject, plainObjects, plainText, type PlainObject } from './plain.ts';
import { pointerPart } from '../value/json-pointer.ts';

/** A parameter, with its schema where it has one. */
export type Parameter = Readonly<{
  name: string;
  in: 'path' | 'query' | 'header' | 'cookie';
  required: boolean;
  about: string | undefined;
  schema: Placed | undefined;
  /** How arrays and objects are written (OpenAPI 3.1 section 4.8.12.3). */
  style: string;
  explode: boolean;
  example: unknown;
  at: Placed;
}>;

/** One media type of a body. */
export type MediaType = Readonly<{ type: string; schema: Placed | undefined; example: unknown; at: Placed }>;

type RequestBodyDescription = Readonly<{ required: boolean; content: readonly MediaType[]; at: Placed }>;

/** What is described for a status: `200`, a class such as `4XX`, or `default`. */
export type ResponseDescription = Readonly<{
  status: string;
  about: string | undefined;
  headers: readonly Readonly<{ name: string; required: boolean; schema: Placed | undefined; at: Placed }>[];
  content: readonly MediaType[];
  at: Placed;
}>;

const METHODS = ['get', 'put', 'post', 'delete', 'options', 'head', 'patch', 'trace'];

/**
 * An operation of a description. Its parts are read when they are first asked for, since of a thousand operations a run uses
 * few. All of them throw `DescriptionFault` where a reference leads nowhere.
 */
export class Operation {
  private readonly known = new Map<string, unknown>();

  constructor(
    private readonly documents: Documents,
    readonly method: string,
    readonly path: string,
    readonly at: Placed,
    private readonly item: Placed,
  ) {}

  private get own(): PlainObject {
    return plainObject(this.at.value) ?? {};
  }

  /** `GET /vessels/{id}`. */
  get name(): string {
    return `${this.method} ${this.path}`;
  }

  get id(): string | undefined {
    return plainText(this.own['operationId']);
  }

  get summary(): string | undefined {
    const { summary, description } = this.own;
    return plainText(summary) ?? plainText(description)?.split('\n')[0];
  }

  get description(): string | undefined {
    return plainText(this.own['description']);
  }

  get isDeprecated(): boolean {
    return this.own['deprecated'] === true;
  }

  get tags(): readonly string[] {
    return plainList(this.own['tags']).filter((tag) => typeof tag === 'string');
  }

  /** Alternatives of schemes that go together; nothing where the description's own hold. */
  get security(): readonly PlainObject[] | undefined {
    const said = this.own['security'];
    return said === undefined ? undefined : plainObjects(said);
  }

  /** Those of the path too, unless the operation says one of the same name and place. */
  get parameters(): readonly Parameter[] {
    return this.once('parameters', () => {
      const all = [...this.parametersOf(this.item), ...this.parametersOf(this.at)];
      return [...new Map(all.map((each) => [`${each.in} ${each.name}`, each])).values()];
    });
  }

  get body(): RequestBodyDescription | undefined {
    return this.once('body', () => {
      const at = this.member(this.at, 'requestBody');
      const own = plainObject(at?.value);
      return at && own && { required: own['required'] === true, content: this.contentOf(at), at };
    });
  }

  get responses(): readonly ResponseDescription[] {
    return this.once('responses', () => {
      const all = this.member(this.at, 'responses');
      return membersOf(all?.value)
        .filter(([status]) => !status.startsWith('x-'))
        .map(([status]) => this.responseOf(status, this.member(all!, status)!));
    });
  }

  private once<T>(name: string, make: () => T): T {
    if (!this.known.has(name)) this.known.set(name, make());
    return this.known.get(name) as T;
  }

  /** A member with references followed; nothing where it is not there. */
  private member(of: Placed, name: string | number): Placed | undefined {
    const value = (of.value as Readonly<Record<string, unknown>> | undefined)?.[name];
    if (value === undefined) return undefined;
    return this.documents.followed({ file: of.file, pointer: of.pointer + pointerPart(name), value });
  }

  private parametersOf(of: Placed): readonly Parameter[] {
    const list = this.member(of, 'parameters');
    return plainList(list?.value).flatMap((_each, i) => {
      const at = this.member(list!, i)!;
      const own = plainObject(at.value) ?? {};
      const { name, in: place } = own;
      return typeof name === 'string' && typeof place === 'string' ? [this.parameterOf(at, name, place)] : [];
    });
  }

  private parameterOf(at: Placed, name: string, place: string): Parameter {
    const own = plainObject(at.value)!;
    const style = plainText(own['style']) ?? (place === 'query' || place === 'cookie' ? 'form' : 'simple');
    const schemaOf = () => this.member(at, 'schema') ?? this.contentOf(at)[0]?.schema;
    const exampleOf = () => this.exampleOf(at);
    return {
      name,
      in: place as Parameter['in'],
      required: own['required'] === true || place === 'path',
      about: plainText(own['description']),
      // Of most parameters nothing but the name is ever asked.
      get schema() {
        return schemaOf();
      },
      style,
      explode: own['explode'] === undefined ? style === 'form' : own['explode'] === true,
      get example() {
        return exampleOf();
      },
      at,
    };
  }

  private responseOf(status: string, at: Placed): ResponseDescription {
    const headers = this.member(at, 'headers');
    return {
      status: status.toUpperCase() === 'DEFAULT' ? 'default' : status.toUpperCase(),
      about: plainText(plainObject(at.value)?.['description']),
      headers: membersOf(headers?.value).map(([name]) => {
        const header = this.member(headers!, name)!;
        const required = plainObject(header.value)?.['required'] === true;
        return { name, required, schema: this.member(header, 'schema'), at: header };
      }),
      content: this.contentOf(at),
      at,
    };
  }

  private contentOf(of: Placed): readonly MediaType[] {
    const content = this.member(of, 'content');
    return membersOf(content?.value).map(([type]) => {
      const at = this.member(content!, type)!;
      return { type, schema: this.member(at, 'schema'), example: this.exampleOf(at), at };
    });
  }

  /** `example`, else the first of `examples`. */
  private exampleOf(at: Placed): unknown {
    const own = plainObject(at.value) ?? {};
    if (own['example'] !== undefined) return own['example'];
    const [first] = Object.keys(plainObject(own['examples']) ?? {});
    const named = first === undefined ? undefined : this.member(this.member(at, 'examples')!, first);
    return plainObject(named?.value)?.['value'];
  }
}

/** The operations of a description, in its order, and what is wrong with those that are left out. */
export function operationsIn(
  documents: Documents,
  root: Placed,
): Readonly<{ operations: readonly Operation[]; faults: readonly DescriptionFault[] }> {
  const operations: Operation[] = [];
  const faults: DescriptionFault[] = [];
  for (const [path, value] of membersOf(plainObject(root.value)?.['paths'])) {
    if (!path.startsWith('/')) continue;
    try {
      const item = documents.followed({ file: root.file, pointer: `/paths${pointerPart(path)}`, value });
      for (const method of METHODS) {
        const own = plainObject(item.value)?.[method];
        if (own === undefined) continue;
        const at = { file: item.file, pointer: item.pointer + pointerPart(method), value: own };
        operations.push(new Operation(documents, method.toUpperCase(), path, at, item));
      }
    } catch (error) {
      if (!(error instanceof DescriptionFault)) throw error;
      faults.push(error);
    }
  }
  return { operations, faults };
}
