import type { Source } from '../diagnostics/source.ts';
import type { Node } from '../expression/model.ts';
import type { RequestTemplate } from '../http/endpoint.ts';
import type { Expectation } from '../http/expectation.ts';
import type { Expression } from '../schema/leaves.ts';
import { leavesOutOf, targetPlaceholders } from '../template/request-line.ts';
import { onlyPlaceholder, textsOf, type TextTemplate, type ValueTemplate } from '../template/template.ts';
import type { CallStep } from './model.ts';
import type { Place, Visitor } from './place.ts';

/** Shows the expressions and texts of requests, expectations and paging to visitors, each with its place. */
export abstract class TextsWalk {
  constructor(protected readonly visitors: readonly Visitor[]) {}

  protected requestParts({ line, query, headers, body, auth, idempotencyKey }: RequestTemplate, place: Place): void {
    const leftOut = line ? leavesOutOf(line.target) : new Set();
    for (const placeholder of line ? targetPlaceholders(line.target) : [])
      this.tree(placeholder.node, placeholder.source, {
        ...place,
        placeholder: true,
        leftOut: leftOut.has(placeholder),
      });
    for (const { value } of query) this.values(value, { ...place, key: 'query' });
    for (const { value } of headers) this.values(value, { ...place, key: 'headers' });
    this.texts(body?.texts ?? [], { ...place, key: body?.key ?? '', leftOut: true });
    if (idempotencyKey !== undefined && idempotencyKey !== true)
      this.texts([idempotencyKey], { ...place, key: 'idempotency-key' });
    if (auth !== undefined && auth !== 'none') this.texts(auth.texts, { ...place, key: 'auth', meanings: auth.names });
  }

  protected values(value: ValueTemplate, place: Place): void {
    this.texts(textsOf(value), { ...place, leftOut: true });
  }

  protected texts(templates: readonly TextTemplate[], place: Place): void {
    for (const template of templates) {
      for (const visitor of this.visitors) visitor.text?.(template, place);
      const leftOut = place.leftOut && onlyPlaceholder(template) !== undefined;
      for (const piece of template.pieces) {
        if (typeof piece !== 'string') this.tree(piece.node, piece.source, { ...place, placeholder: true, leftOut });
      }
    }
  }

  protected expression({ tree, source }: Expression, place: Place): void {
    if (tree) this.tree(tree, source, place);
  }

  protected tree(tree: Node, source: Source, place: Place): void {
    for (const visitor of this.visitors) visitor.expression?.(tree, source, place);
  }

  protected paging({ next, query = [], while: goesOn, items }: NonNullable<CallStep['paging']>, response: Place): void {
    const place = { ...response, key: 'paging' };
    for (const each of [next, items]) if (each) this.expression(each, place);
    if (goesOn) this.expression(goesOn, { ...place, role: 'condition' });
    for (const { value } of query) this.values(value, place);
  }

  protected poll({ until, giveUpWhen, progress }: NonNullable<CallStep['poll']>, response: Place): void {
    const place = { ...response, key: 'poll' };
    for (const each of [until, giveUpWhen]) if (each) this.expression(each, { ...place, role: 'condition' });
    if (progress) this.expression(progress, place);
  }

  protected expectation(expectation: Expectation, place: Place): void {
    for (const visitor of this.visitors) visitor.expectation?.(expectation, place);
    switch (expectation.form) {
      case 'that':
        this.expression(expectation.expression, { ...place, role: 'condition' });
        return;
      case 'includes':
        this.texts(textsOf(expectation.value), place);
        return;
      case 'equals':
        this.texts('file' in expectation.wanted ? [expectation.wanted.file] : textsOf(expectation.wanted.value), place);
        for (const path of expectation.except) this.expression(path, place);
        return;
      case 'schema':
    }
  }
}
