import type { SettingSaid } from '../core/chain/endpoint-at.ts';
import type { Project } from '../core/chain/project-file.ts';
import { didYouMean } from '../core/diagnostics/suggest.ts';
import { readJson } from '../core/value/json-read.ts';
import { readNumber } from '../core/value/numbers.ts';
import { aType } from '../core/value/show.ts';
import { isList, isObject, numberOf, typeOf, type Value } from '../core/value/value.ts';
import { CommandError } from './command-error.ts';

/** `--setting quay=N4`, `--setting harbour.quay=N4`: settings that the project has, of the type that they have there. Throws `CommandError`. */
export function readSettings(given: readonly string[], project: Project | undefined): readonly SettingSaid[] {
  return given.map((text) => {
    const split = text.indexOf('=');
    const [, api, name] = /^(?:([^.]+)\.)?([^.]+)$/.exec(text.slice(0, Math.max(0, split))) ?? [];
    if (name === undefined)
      throw new CommandError('invalid-option', `--setting needs NAME=VALUE or API.NAME=VALUE, not "${text}"`);
    const apis = project?.apis ?? [];
    if (api !== undefined && apis.every((each) => each.name !== api)) {
      const advice =
        didYouMean(
          api,
          apis.map((each) => each.name),
        ) ?? 'Settings belong to the APIs of a project.';
      throw new CommandError('unknown-api', `The project has no API "${api}"`, advice);
    }
    const all = apis
      .filter((each) => api === undefined || each.name === api)
      .flatMap(({ endpoints }) => endpoints.map(({ settings }) => settings));
    const before = all.find((settings) => Object.hasOwn(settings, name))?.[name];
    if (before === undefined) {
      const advice = didYouMean(name, all.flatMap(Object.keys)) ?? 'Add it under settings: of an API.';
      throw new CommandError(
        'setting-missing',
        `No API${api === undefined ? '' : ` named ${api}`} has the setting "${name}"`,
        advice,
      );
    }
    return { api, name, value: valueLike(before, text.slice(split + 1), name) };
  });
}

/** A text as a value of the type of another. Throws `CommandError`. */
function valueLike(before: Value, text: string, name: string): Value {
  if (typeof before === 'string') return text;
  if (numberOf(before) !== undefined) {
    const number = readNumber(text);
    if (number !== undefined) return number;
  } else {
    const json = readJson(text);
    if (json.ok && (before === null || isAlike(before, json.value))) return json.value;
    if (before === null) return text;
  }
  throw new CommandError('invalid-option', `The setting ${name} is ${aType(before)}, not "${text}"`);
}

function isAlike(a: Value, b: Value): boolean {
  return isList(a) === isList(b) && isObject(a) === isObject(b) && typeOf(a) === typeOf(b);
}
