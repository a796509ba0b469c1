import { apisAreKnown } from './apis-are-known.ts';
import { bodiesAreInMemory } from './bodies-are-in-memory.ts';
import { callbacksMeet } from './callbacks-meet.ts';
import { callsAreUnique } from './calls-are-unique.ts';
import { comparisonsCanDiffer } from './comparisons-can-differ.ts';
import { conditionsAreBoolean } from './conditions-are-boolean.ts';
import { contractsHold } from './contracts-hold.ts';
import { credentialsAreSecrets } from './credentials-are-secrets.ts';
import { expectationsAgree } from './expectations-agree.ts';
import { expectationsLookAtSomething } from './expectations-look-at-something.ts';
import { fallbacksAreNeeded } from './fallbacks-are-needed.ts';
import { filesAreThere } from './files-are-there.ts';
import { filesCanBeWritten } from './files-can-be-written.ts';
import { typesFit } from './types-fit.ts';
import { loopsMakeSense } from './loops-make-sense.ts';
import { memoryIsPlain } from './memory-is-plain.ts';
import { namesAreBound } from './names-are-bound.ts';
import { namesAreCertain } from './names-are-certain.ts';
import { namesAreUsed } from './names-are-used.ts';
import { namesAreWellFormed } from './names-are-well-formed.ts';
import { pagesCanTurn } from './pages-can-turn.ts';
import { pollsCanEnd } from './polls-can-end.ts';
import { requestsMakeSense } from './requests-make-sense.ts';
import type { Rule } from './rule.ts';
import { secretsStayHidden } from './secrets-stay-hidden.ts';
import { settingsAreThere } from './settings-are-there.ts';
import { stepsCanRun } from './steps-can-run.ts';
import { textsAreMeant } from './texts-are-meant.ts';
import { urlsAreKnown } from './urls-are-known.ts';

/** Every rule. All run side by side in one walk; of two that report the same place, the earlier one counts. */
export const rules: readonly Rule[] = Object.freeze([
  namesAreWellFormed,
  namesAreBound,
  namesAreCertain,
  namesAreUsed,
  loopsMakeSense,
  callsAreUnique,
  callbacksMeet,
  apisAreKnown,
  settingsAreThere,
  conditionsAreBoolean,
  comparisonsCanDiffer,
  typesFit,
  fallbacksAreNeeded,
  expectationsAgree,
  expectationsLookAtSomething,
  requestsMakeSense,
  pagesCanTurn,
  pollsCanEnd,
  urlsAreKnown,
  filesAreThere,
  filesCanBeWritten,
  bodiesAreInMemory,
  stepsCanRun,
  memoryIsPlain,
  secretsStayHidden,
  credentialsAreSecrets,
  textsAreMeant,
  contractsHold,
]);
