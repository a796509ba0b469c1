import type { Feature } from '../feature.ts';
import { actions } from './actions.ts';
import { completion } from './completion.ts';
import { diagnostics } from './diagnostics.ts';
import { hover } from './hover.ts';
import { lenses } from './lenses.ts';
import { links } from './links.ts';
import { navigation } from './navigation.ts';
import { outline } from './outline.ts';
import { rename } from './rename.ts';

/** All that the server does for an editor. */
export const features: readonly Feature[] = [
  diagnostics,
  actions,
  completion,
  hover,
  navigation,
  rename,
  outline,
  links,
  lenses,
];
