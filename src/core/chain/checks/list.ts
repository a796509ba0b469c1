import { apisAreKnown } from './apis-are-known.ts';
import { callsAreUnique } from './calls-are-unique.ts';
import { conditionsAreBoolean } from './conditions-are-boolean.ts';
import { namesAreBound } from './names-are-bound.ts';
import { namesAreWellFormed } from './names-are-well-formed.ts';
import { requestsMakeSense } from './requests-make-sense.ts';
import type { Rule } from './rule.ts';
import { settingsAreThere } from './settings-are-there.ts';
import { textsAreMeant } from './texts-are-meant.ts';

/** Every rule. All run side by side in one walk; of two that report the same place, the earlier one counts. */
export const rules: readonly Rule[] = Object.freeze([
  namesAreWellFormed,
  namesAreBound,
  callsAreUnique,
  apisAreKnown,
  settingsAreThere,
  conditionsAreBoolean,
  requestsMakeSense,
  textsAreMeant,
]);
