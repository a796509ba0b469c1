import type { FunctionDefinition, Parameter } from '../expression/functions/definition.ts';
import { families } from '../expression/functions/list.ts';
import type { Page, PageGroup } from './page.ts';

/** Every function, family by family. */
export function functionGroups(): readonly PageGroup[] {
  return families.map(([heading, family]) => ({ heading, pages: family.map(pageOf) }));
}

/** How a function is called: `formatted(time, pattern, [zone])`. */
export function signatureOf({ name, parameters }: FunctionDefinition): string {
  return `${name}(${parameters.map((each) => (each.optional ? `[${each.name}]` : each.name)).join(', ')})`;
}

function pageOf(definition: FunctionDefinition): Page {
  const { name, parameters, about, example, errors, volatile } = definition;
  const [expression, result] = example;
  const rows = [
    ...parameters.map((parameter) => ({ label: parameter.name, text: argumentText(parameter) })),
    { label: 'returns', text: resultText(definition) },
    ...(errors === undefined ? [] : [{ label: 'errors', text: errors }]),
    ...(volatile ? [{ label: 'note', text: 'The value differs each time; it is recorded with the step.' }] : []),
  ];
  return {
    name,
    kind: 'function',
    heading: signatureOf(definition),
    paragraphs: [about],
    rows,
    example: `${expression}   gives   ${result}`,
  };
}

const SORTS: Readonly<Partial<Record<Parameter['sort'], string>>> = {
  item: 'an expression, evaluated with @ as each item',
  itemCondition: 'a condition, evaluated with @ as each item',
  presence: 'a path or a value, which may be nothing',
  maybe: 'a value or nothing',
  lazy: 'a value, evaluated only when it is needed',
};

function argumentText({ sort, what, optional }: Parameter): string {
  return `${SORTS[sort] ?? what}${optional ? '; optional' : ''}`;
}

function resultText({ result }: FunctionDefinition): string {
  if (result === undefined) return 'a value that depends on its arguments';
  if (result === 'condition') return 'true or false';
  return `${/^[aeiou]/.test(result) ? 'an' : 'a'} ${result}`;
}
