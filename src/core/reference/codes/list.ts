import type { Code } from '../../diagnostics/catalogue.ts';
import type { CodePage } from './definition.ts';
import { meaningCodes } from './meaning.ts';
import { nameCodes } from './names.ts';
import { runningCodes } from './running.ts';
import { surroundingCodes } from './surroundings.ts';
import { textCodes } from './text.ts';

/** The page of every message code, by the headings of the reference. */
export const codeGroups = [
  { heading: 'Files', pages: textCodes },
  { heading: 'Names', pages: nameCodes },
  { heading: 'Meaning', pages: meaningCodes },
  { heading: 'Surroundings', pages: surroundingCodes },
  { heading: 'While running', pages: runningCodes },
] as const;

export function codePage(code: Code): CodePage | undefined {
  return codeGroups.map(({ pages }) => pages[code]).find((page) => page !== undefined);
}
