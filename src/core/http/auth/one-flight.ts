/** Runs a piece of work once for all who ask while it is under way. */
export function oneFlight<T>(): (work: () => Promise<T>) => Promise<T> {
  let flight: Promise<T> | undefined;
  return (work) => {
    flight ??= work().finally(() => (flight = undefined));
    return flight;
  };
}
