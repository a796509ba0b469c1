import { ungrouped, type Node } from '../../expression/model.ts';
import type { NameInfo } from '../names.ts';
import { eachNode } from '../walk.ts';
import type { Place } from '../place.ts';
import type { Rule } from './rule.ts';

/** A name that may have no value here is read with a `??`, inside `exists()`, or under a condition that makes sure. */
export const namesAreCertain: Rule = ({ reportIn }) => ({
  expression(tree, source, place) {
    // What is nothing in `gives` is left out, and asking for it is no mistake.
    if (place.key === 'outputs') return;
    eachNode(tree, (node, inside) => {
      if (inside.maybe || node.kind !== 'path' || node.start.kind !== 'name') return;
      const { name } = node.start;
      if (name === 'remembered') {
        const text = source.text.slice(...node.range);
        const advice = `Write ${text} ?? ... for the first run, which has nothing remembered.`;
        reportIn(source, {
          code: 'maybe-missing',
          range: node.range,
          message: `${text} may have no value: perhaps no run has passed yet`,
          advice,
        });
        return;
      }
      const info = place.names.get(name);
      if (!info || (!info.optional && info.under.length === 0) || isLeftOut(node, tree, info, place)) return;
      const why = whyMissing(name, info, place);
      if (why === undefined) return;
      const text = source.text.slice(...node.range);
      const advice = `Write ${text} ?? ... with a value for that case, or add when: exists(${name}).`;
      reportIn(source, {
        code: 'maybe-missing',
        range: node.range,
        message: `"${name}" may have no value here: ${why}`,
        advice,
      });
    });
  },
});

/** A placeholder that is exactly an optional input leaves out what it stands for. */
function isLeftOut(node: Node, tree: Node, info: NameInfo, place: Place): boolean {
  return info.optional && place.leftOut && node === tree;
}

function whyMissing(name: string, info: NameInfo, place: Place): string | undefined {
  if (place.under.some(({ tree }) => makesSure(tree, name))) return undefined;
  if (info.optional) return 'it is an optional input';
  const open = info.under.filter((condition) => !place.under.some(({ text }) => text === condition));
  return open[0] === undefined ? undefined : `it is ${info.by} only if ${open[0]}`;
}

/** Whether a condition holds only when a name has a value: `exists(name)`, alone or beside others. */
function makesSure(condition: Node, name: string): boolean {
  const node = ungrouped(condition);
  if (node.kind === 'binary' && node.operator === '&&')
    return makesSure(node.left, name) || makesSure(node.right, name);
  if (node.kind === 'binary' && !['||', '??'].includes(node.operator))
    return [node.left, node.right].some((side) => startsAt(side, name));
  return node.kind === 'call' && node.name === 'exists' && startsAt(node.args[0], name);
}

function startsAt(node: Node | undefined, name: string): boolean {
  return node?.kind === 'path' && node.start.kind === 'name' && node.start.name === name;
}
