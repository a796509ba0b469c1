import { curl } from './curl.ts';
import type { DraftForm } from './definition.ts';
import { fetchCalls } from './fetch.ts';
import { har } from './har.ts';
import { httpMessages } from './http-messages.ts';

/** Every form of sample; a new one is a file and a line here. The first that recognizes a text reads it. */
export const draftForms: readonly DraftForm[] = [har, curl, httpMessages, fetchCalls];

/** The form of a sample: the one that is named, else the one that recognizes it. */
export function formOf(text: string, named?: string): DraftForm | undefined {
  return draftForms.find(({ name, recognizes }) => (named === undefined ? recognizes(text) : name === named));
}
