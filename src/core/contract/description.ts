import type { FileRead } from '../expression/host.ts';
import { DescriptionFault, Documents, type Placed } from './documents.ts';
import { operationsIn, type Operation } from './operation.ts';
import { membersOf, plainList, plainObject, plainObjects, plainText, type PlainObject } from './plain.ts';
import { pointerPart } from '../value/json-pointer.ts';

/** A server that a description names; `variables` stand in its URL in braces. */
export type Server = Readonly<{
  url: string;
  about: string | undefined;
  variables: readonly Readonly<{ name: string; default: string; choices: readonly string[] }>[];
}>;

/** Why a description, or a part of it, cannot be used: `harbour.yaml:12: ...`. */
export type DescriptionProblem = Readonly<{
  file: string;
  line: number | undefined;
  message: string;
  advice: string | undefined;
}>;

/** An API description in OpenAPI 3.0 or 3.1. */
export class Description {
  constructor(
    readonly documents: Documents,
    readonly root: Placed,
    /** Whether its schemas are of the dialect of 3.0. */
    readonly isOld: boolean,
    readonly operations: readonly Operation[],
    /** Paths that are left out. */
    readonly faults: readonly DescriptionFault[],
  ) {}

  private get own(): PlainObject {
    return plainObject(this.root.value)!;
  }

  get file(): string {
    return this.root.file;
  }

  get title(): string {
    return plainText(plainObject(this.own['info'])?.['title']) ?? this.file;
  }

  get version(): string {
    const version = plainObject(this.own['info'])?.['version'];
    return version === undefined ? '' : String(version as string | number);
  }

  get servers(): readonly Server[] {
    return plainList(this.own['servers']).flatMap((each) => {
      const { url, description, variables } = plainObject(each) ?? {};
      if (typeof url !== 'string') return [];
      return [{ url, about: plainText(description), variables: membersOf(variables).map(variableOf) }];
    });
  }

  get security(): readonly PlainObject[] {
    return plainObjects(this.own['security']);
  }

  /** Security schemes by name. Throws `DescriptionFault`. */
  scheme(name: string): PlainObject | undefined {
    const schemes = plainObject(plainObject(this.own['components'])?.['securitySchemes']);
    const value = schemes?.[name];
    if (value === undefined) return undefined;
    const pointer = `/components/securitySchemes${pointerPart(name)}`;
    return plainObject(this.documents.followed({ file: this.file, pointer, value }).value);
  }

  /** The operation of an id, or of `METHOD /path` as the description writes it. */
  operation(name: string): Operation | undefined {
    return this.operations.find((each) => each.id === name || each.name === name);
  }

  problemOf(fault: DescriptionFault): DescriptionProblem {
    return problemOf(fault, this.documents);
  }
}

/** A fault with its line, where it is of a part of a file. */
function problemOf({ at, message, advice }: DescriptionFault, documents: Documents): DescriptionProblem {
  return { file: at.file, line: at.pointer === '' ? undefined : documents.lineOf(at), message, advice };
}

function variableOf([name, value]: readonly [string, unknown]): Server['variables'][number] {
  const own = plainObject(value) ?? {};
  const choices = plainList(own['enum']).map(String);
  return { name, default: String(own['default'] ?? choices[0] ?? ''), choices };
}

/** Reads a description. What is sound of it is used: a broken part is told when it is asked for. Never throws. */
export function readDescription(
  file: string,
  readFile: (path: string) => FileRead,
): Readonly<{ description: Description }> | Readonly<{ problem: DescriptionProblem }> {
  const documents = new Documents(readFile);
  try {
    const root = documents.root(file);
    const own = plainObject(root.value);
    const version = plainText(own?.['openapi']);
    if (!own || version === undefined || !/^3\.[01]\./.test(version)) throw notOpenApi(root, own);
    const { operations, faults } = operationsIn(documents, root);
    return { description: new Description(documents, root, version.startsWith('3.0'), operations, faults) };
  } catch (error) {
    if (!(error instanceof DescriptionFault)) throw error;
    return { problem: problemOf(error, documents) };
  }
}

function notOpenApi(root: Placed, own: PlainObject | undefined): DescriptionFault {
  const advice = 'A description begins with openapi: 3.0.x or 3.1.x.';
  if (own?.['swagger'] !== undefined) {
    const message = 'This description is of OpenAPI 2.0, which is not read';
    return new DescriptionFault(root, message, 'Ask its publisher for version 3, or convert it once.');
  }
  const version = own?.['openapi'];
  if (version === undefined) return new DescriptionFault(root, 'This file is no OpenAPI description', advice);
  return new DescriptionFault(root, `OpenAPI ${String(version as string)} is not read`, advice);
}
