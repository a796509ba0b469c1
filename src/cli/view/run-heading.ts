import { recordedSlice } from '../../core/engine/slices.ts';
import type { EventOf } from '../../core/journal/events.ts';
import { visible } from '../../core/value/visible.ts';
import type { Palette } from './palette.ts';

/** The first line of a run: its chain, where its apis are, and what a person has otherwise than the project. */
export function runHeading(event: EventOf<'run'>, palette: Palette): string {
  const { name, apis, run, options } = event;
  const where = apis.map((api) => (api.deployment === null ? api.name : `${api.name} at ${api.deployment}`)).join(', ');
  const { local, setting = [] } = options as { local?: string; setting?: readonly string[] };
  const slice = recordedSlice(event);
  const own = [...(local === undefined ? [] : [local]), ...setting].join(', ');
  const parts = [
    palette.strong(name),
    where,
    own && `with ${visible(own)}`,
    slice ? `slice ${slice.part}/${slice.of}` : '',
    palette.quiet(`run ${run}`),
  ];
  return parts.filter((part) => part !== '').join('   ');
}
