import { secretIn } from '../../expression/secrecy.ts';
import { signsInTo } from '../uses.ts';
import type { Rule } from './rule.ts';

/** Places that others read: a secret in them is masked in records, but goes where logs are kept. */
const SEEN: Readonly<Record<string, string>> = {
  request: 'a URL, which servers and proxies log',
  query: 'a URL, which servers and proxies log',
  write: 'a file, where it is masked without reveal: true',
  say: 'output, where it is masked',
  stop: 'output, where it is masked',
  outputs: 'the outputs, where it is masked',
};

/** A secret does not stand where others read it. */
export const secretsStayHidden: Rule = ({ reportIn, chain, project }) => ({
  expression(tree, source, { key, secretNames }) {
    // To give a secret is what a chain is for that signs in.
    const where = key === 'outputs' && signsInTo(chain, project) !== undefined ? undefined : SEEN[key];
    if (where === undefined || secretIn(tree, secretNames) === undefined) return;
    const advice =
      key === 'request' || key === 'query'
        ? 'Send it in a header; if the API requires it in the query, use auth: api-key: {query: ...}.'
        : 'Remove it, or output something that does not depend on it.';
    reportIn(source, {
      code: 'secret-shown',
      range: tree.range,
      message: `A secret would be part of ${where}`,
      advice,
    });
  },
});
