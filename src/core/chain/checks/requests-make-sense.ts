import { headerNameProblem } from '../../http/headers.ts';
import type { Named } from '../../schema/leaves.ts';
import type { ValueTemplate } from '../../template/template.ts';
import type { CallStep } from '../model.ts';
import type { Rule, RuleContext } from './rule.ts';

const WITHOUT_BODY: ReadonlySet<string> = new Set(['GET', 'HEAD', 'DELETE']);

/** A request says nothing twice, nothing that only the transport can say, and no body where none is expected. */
export const requestsMakeSense: Rule = (context) => ({
  call(step) {
    checkHeaders(context, step);
    checkParameters(context, step);
    const { line, body } = step.request;
    if (!line || !body || !WITHOUT_BODY.has(line.method)) return;
    const message = `A ${line.method} request has no body by convention, and servers may ignore or refuse it`;
    context.reportIn(line.source, {
      code: 'body-unexpected',
      range: [0, line.method.length],
      message,
      advice: 'Did you mean another method?',
    });
  },
});

function checkHeaders({ reportAt }: RuleContext, { request }: CallStep): void {
  checkHeaderNames(request.headers, reportAt);
  for (const { name, nameRange, file } of request.headers) {
    if (name.toLowerCase() !== 'content-type' || !contradictsBody(request)) continue;
    const message = `The header "${name}" contradicts the media type that ${request.body!.key} sends`;
    const advice = 'Remove it; type sets the media type where the body allows several.';
    reportAt(file, { code: 'reserved-header', range: nameRange, message, advice });
  }
}

/** Names of headers that can be sent, and are not the transport's own. */
export function checkHeaderNames(headers: Named<ValueTemplate>, reportAt: RuleContext['reportAt']): void {
  for (const { name, nameRange, file, whole } of headers) {
    const problem = whole ? undefined : headerNameProblem(name);
    if (problem) reportAt(file, { code: 'reserved-header', range: nameRange, ...problem });
  }
}

/** Whether a Content-Type header says something that the body is not. */
function contradictsBody({ body, headers }: CallStep['request']): boolean {
  const header = headers.find(({ name }) => name.toLowerCase() === 'content-type');
  if (!body || header?.value.kind !== 'text') return false;
  const said = header.value.source.text.toLowerCase();
  if (said.includes('{')) return false;
  const own = body.type('');
  const word = ['json', 'xml', 'urlencoded'].find((each) => own.includes(each));
  return body.key === 'multipart' || (word !== undefined && !said.includes(word));
}

/** The names that the target's own query sends: literal ones, and those of {?..} and {&..}. */
function parametersOfTarget(step: CallStep): ReadonlySet<string> {
  const parts = step.request.line?.target.parts ?? [];
  const literal = parts.map((part) => (part.kind === 'literal' ? part.text : '')).join('');
  const named = parts.flatMap((part) =>
    part.kind === 'variables' && (part.operator === '?' || part.operator === '&')
      ? part.variables.map(({ name }) => name)
      : [],
  );
  const query = literal.includes('?') ? literal.slice(literal.indexOf('?') + 1) : '';
  return new Set([
    ...named,
    ...query
      .split('&')
      .map((pair) => pair.split('=')[0]!)
      .filter((name) => name !== ''),
  ]);
}

function checkParameters({ reportAt, reportIn }: RuleContext, step: CallStep): void {
  const inTarget = parametersOfTarget(step);
  for (const { name, nameRange, file } of step.request.query) {
    if (!inTarget.has(name)) continue;
    const message = `The parameter "${name}" is in the target already`;
    reportAt(file, {
      code: 'duplicate-parameter',
      range: nameRange,
      message,
      advice: 'Remove it in one of the two places.',
    });
  }
  if (step.request.line === undefined) return;
  const { source } = step.request.line;
  if (source.text.includes('#')) {
    const range = [source.text.indexOf('#'), source.text.length] as const;
    if (range[0] > 0 && source.text[range[0] - 1] !== '{') {
      reportIn(source, {
        code: 'invalid-target',
        range,
        message: 'A fragment (#) is never sent',
        advice: 'Remove it, or write %23 for the character.',
      });
    }
  }
}
