/** A member of a plain JSON value, as a description's own reader gives it. */
export type Plain = unknown;
export type PlainObject = Readonly<Record<string, unknown>>;

export function plainObject(value: Plain): PlainObject | undefined {
  return typeof value === 'object' && value !== null && !Array.isArray(value) ? (value as PlainObject) : undefined;
}

export function plainList(value: Plain): readonly unknown[] {
  return Array.isArray(value) ? value : [];
}

/** The objects of a list. */
export function plainObjects(value: Plain): readonly PlainObject[] {
  return plainList(value).flatMap((each): readonly PlainObject[] => {
    const object = plainObject(each);
    return object ? [object] : [];
  });
}

export function plainText(value: Plain): string | undefined {
  return typeof value === 'string' ? value : undefined;
}

/** The members of an object, none of anything else. */
export function membersOf(value: Plain): readonly (readonly [name: string, value: unknown])[] {
  return Object.entries(plainObject(value) ?? {});
}
