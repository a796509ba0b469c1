// Compiled by `npm run types` against the declarations that the package carries, as a user's code is.
import { loadProject, openJournal, reportFormats, runLoaded, type JournalEvent } from 'batharon';

const project = loadProject('.');
const chain = project.chain('chains/berth.chain.yaml', ['sandbox']);
const names: readonly string[] = chain.required;
// @ts-expect-error -- a list of names is no number
const count: number = chain.required;

const { exit, journal } = await runLoaded(chain, { inputs: { day: '2026-05-23' } });
const events: readonly JournalEvent[] = openJournal('.', journal?.run ?? '')?.events ?? [];
export const statuses = events.flatMap((event) => (event.type === 'answered' ? [event.status.toFixed()] : []));
// @ts-expect-error -- there is no such event
export const wrong = [exit, names, count, events[0]?.type === 'replied'];
export const kinds = reportFormats.map(({ kind }) => kind.toUpperCase());
