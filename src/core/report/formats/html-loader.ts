/* eslint-disable @typescript-eslint/no-require-imports, no-restricted-globals -- an import would load them at start */
import type * as HtmlPackages from './html-packages.ts';

export const htmlPackages = () => require('./html-packages.ts') as typeof HtmlPackages;
