import { namesRead, eachPath } from '../../expression/names-read.ts';
import { isSingular } from '../../path/model.ts';
import { placeholdersOf } from '../../template/template.ts';
import { wholeOf } from '../../diagnostics/source.ts';
import type { CallStep } from '../model.ts';
import { useItems } from '../paging.ts';
import type { Rule, RuleContext } from './rule.ts';

/** The next page can be another one, and lists are those of all pages. */
export const pagesCanTurn: Rule = (context) => {
  let paged: CallStep | undefined;
  return {
    call(step) {
      paged = step.paging ? step : undefined;
      if (step.paging) checkTurning(step, context);
    },
    expression(tree, source, place) {
      if (!paged?.paging || place.step !== paged.name || (place.key !== 'expect' && place.key !== 'keep')) return;
      const { paging } = paged;
      eachPath(tree, (path) => {
        if (path.start.kind !== 'body' || isSingular(path.segments)) return;
        context.reportIn(source, useItems(source, path, paging!));
      });
    },
    expectation(expectation, place) {
      if (!paged || place.step !== paged.name || paged.paging?.items) return;
      if (expectation.form !== 'includes' && expectation.form !== 'equals') return;
      const message = `${expectation.form} is evaluated on the items of all pages, and paging has no items`;
      context.reportIn(expectation.source, {
        code: 'use-items',
        range: wholeOf(expectation.source),
        message,
        advice: 'Add items with the path of the array in one page.',
      });
    },
  };
};

function checkTurning({ paging, name, nameSource }: CallStep, { reportIn }: RuleContext): void {
  const { next, query, while: goesOn } = paging!;
  const cannot = (message: string, advice: string) =>
    reportIn(nameSource, { code: 'page-cannot-turn', range: [0, name.length], message, advice });
  if (!next && !query) {
    cannot('The paging of this call has no next page', "Add next: link('next'), or query with while.");
  } else if (query && !goesOn) {
    cannot('The paging of this call has a query but no end', 'Add while with a condition on the page.');
  } else if (next?.tree && !readsPage(namesRead(next.tree)) && !/link\(|xpath\(/.test(next.source.text)) {
    cannot(
      `${next.source.text} reads nothing of the page, so every page would be the same`,
      'Read it from $, headers or link().',
    );
  } else if (query) {
    const read = query.flatMap(({ value }) =>
      placeholdersOf(value).flatMap((placeholder) => namesRead(placeholder.node)),
    );
    if (!readsPage(read))
      cannot('The query of the next page reads nothing of the page', 'Read it from $, or use page_count.');
  }
}

const OF_PAGE: ReadonlySet<string> = new Set(['$', 'page_count', 'headers', 'response', 'items', 'cookies', 'url']);

function readsPage(names: readonly string[]): boolean {
  return names.some((name) => OF_PAGE.has(name));
}
