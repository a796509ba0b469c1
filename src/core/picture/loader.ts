/* eslint-disable @typescript-eslint/no-require-imports, no-restricted-globals -- an import would load it at start */
import type * as Page from './picture-page.tsx';

/** Pictures as documents; what they are made with is loaded only when one is asked for. */
export const svgOf: typeof Page.svgOf = (...given) => (require('./picture-page.tsx') as typeof Page).svgOf(...given);
export const picturePage: typeof Page.picturePage = (...given) =>
  (require('./picture-page.tsx') as typeof Page).picturePage(...given);
