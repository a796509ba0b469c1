import type { SecretStore } from '../adapters/secrets.ts';

/**
 * The values of secrets by name. One that a command gives is no enumerable member: whoever goes over them all leaves it
 * alone, and the command runs when an expression reads it.
 */
export type SecretValues = Readonly<Record<string, string>>;

export function secretValues(names: readonly string[], { find, later }: SecretStore): SecretValues {
  const values: Record<string, string> = {};
  for (const name of names) {
    const value = find(name);
    const get = later(name);
    if (value !== undefined) values[name] = value;
    else if (get) Object.defineProperty(values, name, { get, configurable: true });
  }
  return values;
}

/** A store that knows no secret, and gives the mask of each in its place. */
export const maskedSecrets: SecretStore = {
  find: (name) => `\u2039${name}\u203a`,
  later: () => undefined,
  all: () => [],
  isCommon: () => false,
  isInFile: () => false,
  placeOf: () => undefined,
  places: [],
  hasFile: false,
  readableByOthers: false,
};

/** The names of all of them, those that commands give too. */
export function namesOfSecrets(values: SecretValues): readonly string[] {
  return Object.getOwnPropertyNames(values);
}

/** The names of those that commands give. */
export function namesFromCommands(values: SecretValues): readonly string[] {
  return namesOfSecrets(values).filter((name) => !Object.prototype.propertyIsEnumerable.call(values, name));
}

/** The same for what sends nothing: no command is run, and a mask stands for what it would give. */
export function withoutCommands(values: SecretValues): SecretValues {
  return { ...values, ...Object.fromEntries(namesFromCommands(values).map((name) => [name, `\u2039${name}\u203a`])) };
}
