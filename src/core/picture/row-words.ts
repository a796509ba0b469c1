import type { Step } from '../chain/model.ts';
import { bindingsOf, sourceOf } from '../chain/steps/inside.ts';
import { counted, nameList } from '../value/show.ts';
import type { PictureRow } from './picture.ts';

/** What a row says of its step: its title, its kind, and a line or two. */
export function headOf(step: Step): Pick<PictureRow, 'title' | 'kind' | 'lines'> {
  const kept = bindingsOf(step).filter(({ what }) => what === 'keep' || what === 'let' || what === 'gather');
  const names = nameList(
    kept.map(({ name }) => name),
    6,
  );
  const keeps =
    kept.length > 0 && step.kind !== 'let' ? [`${step.kind === 'each' ? 'gathers' : 'keeps'} ${names}`] : [];
  const when = step.when ? [`when ${step.when.source.text.trim()}`] : [];
  const { title, kind, lines } = ownWords(step, names);
  return { title, kind, lines: [...lines, ...when, ...keeps] };
}

function ownWords(step: Step, names: string): Pick<PictureRow, 'title' | 'kind' | 'lines'> {
  switch (step.kind) {
    case 'call': {
      const { name, request, expect, poll, paging, undo } = step;
      const more = [
        ...(poll ? ['polls'] : []),
        ...(paging ? ['pages'] : []),
        ...(undo ? ['can be undone'] : []),
        ...(expect.length > 0 ? [counted(expect.length, 'expectation')] : []),
      ];
      const line = request.line?.source.text.trim() ?? '';
      return { title: name, kind: 'call', lines: [line, ...(more.length > 0 ? [more.join(', ')] : [])] };
    }
    case 'let':
      return { title: names, kind: 'let', lines: [] };
    case 'repeat':
      return { title: step.name, kind: 'repeat', lines: step.until ? [`until ${step.until.source.text.trim()}`] : [] };
    case 'parallel':
      return { title: 'at the same time', kind: 'parallel', lines: [] };
    case 'expect':
      return { title: counted(step.expect.length, 'expectation'), kind: 'expect', lines: [] };
    case 'broken':
      return { title: 'a step that cannot be read', kind: '', lines: [] };
    default:
      return { title: sourceOf(step)?.text.trim() ?? '', kind: step.kind, lines: [] };
  }
}
