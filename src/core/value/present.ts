/** The members of an object that are there: none that is `undefined`. */
type Present<T> = { [K in keyof T]?: Exclude<T[K], undefined> };

export function present<T extends Readonly<Record<string, unknown>>>(members: T): Present<T> {
  const found: Record<string, unknown> = {};
  for (const name in members) if (members[name] !== undefined) found[name] = members[name];
  return found as Present<T>;
}
