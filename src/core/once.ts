/** What is worked out of an object once, however often it is asked for. */
export function onceOf<K extends object, V>(make: (of: K) => V): (of: K) => V {
  const known = new WeakMap<K, V>();
  return (of) => {
    let made = known.get(of);
    if (made === undefined) known.set(of, (made = make(of)));
    return made;
  };
}
