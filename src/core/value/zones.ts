import type { Problem } from '../diagnostics/problem.ts';
import { didYouMean } from '../diagnostics/suggest.ts';

const known = new Map<string, boolean>();

/** Whether a name is that of a time zone in the IANA database. */
function isZone(name: string): boolean {
  let is = known.get(name);
  if (is === undefined) known.set(name, (is = name === 'UTC' || isKnownToPlatform(name)));
  return is;
}

function isKnownToPlatform(name: string): boolean {
  // The platform also takes offsets (+01:00), which say nothing of summer time, and names in any case.
  if (!/^[A-Z][A-Za-z0-9_+-]*(\/[A-Za-z0-9_+-]+)*$/.test(name)) return false;
  try {
    new Intl.DateTimeFormat('en', { timeZone: name });
    return true;
  } catch {
    return false;
  }
}

/** What is wrong with the name of a zone, if anything. */
export function zoneProblem(name: string): Omit<Problem, 'range'> | undefined {
  if (isZone(name)) return undefined;
  const advice = didYouMean(name, ['UTC', ...Intl.supportedValuesOf('timeZone')]);
  return {
    code: 'unknown-zone',
    message: `Unknown time zone "${name}"`,
    advice: advice ?? 'Time zones have IANA names, such as Europe/Lisbon or UTC.',
  };
}
