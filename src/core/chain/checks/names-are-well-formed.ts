import { isName } from '../../path/scanner.ts';
import { RESERVED, RESPONSE_NAMES } from '../names.ts';
import type { Rule } from './rule.ts';

/** A name that is bound has only letters, digits and `_`, has no meaning of its own, and is bound once. */
export const namesAreWellFormed: Rule = ({ reportAt }) => ({
  binding({ name, range, file, names, outer, what }) {
    if (!isName(name)) {
      const suggestion = name.replace(/[^A-Za-z0-9_\u0080-\uffff]+/g, '_').replace(/^(?=\d)/, '_');
      const advice = `Write ${suggestion}.`;
      reportAt(file, {
        code: 'invalid-name',
        range,
        message: `A name consists of letters, digits and _, which "${name}" does not`,
        advice,
        fix: { range, text: suggestion },
      });
    } else if (RESERVED.has(name)) {
      reportAt(file, {
        code: 'reserved-name',
        range,
        message: `"${name}" is a reserved name`,
        advice: `Choose another, such as ${name}_value.`,
      });
    } else if (outer.has(name)) {
      const message = `"${name}" would hide a name outside the loop: ${names.get(name)!.by}`;
      const advice = 'Choose another name, so that both can be read.';
      reportAt(file, { code: 'hides-name', range, message, advice });
    } else if (names.has(name)) {
      const by = names.get(name)!.by;
      const advice = 'A name is bound once; choose another name here.';
      reportAt(file, { code: 'duplicate-name', range, message: `"${name}" is bound already: it is ${by}`, advice });
    } else if (RESPONSE_NAMES.has(name)) {
      const message = `In ${what === 'input' ? 'expect and keep' : 'response keys'} "${name}" means the response's own ${name}`;
      reportAt(file, {
        code: 'shadows-response',
        range,
        message,
        advice: `Choose a more specific name, such as vessel_${name}.`,
      });
    }
  },
});
