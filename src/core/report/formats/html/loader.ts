/* eslint-disable @typescript-eslint/no-require-imports, no-restricted-globals -- an import would load it at start */
import type * as Page from './page.tsx';

/** The page of a report; what it is made with is loaded only when one is asked for. */
export const pageOf: typeof Page.pageOf = (...given) => (require('./page.tsx') as typeof Page).pageOf(...given);
