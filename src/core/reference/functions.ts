import type { FunctionDefinition, Parameter } from '../expression/functions/definition.ts';
import { conditions } from '../expression/functions/conditions.ts';
import { encodings } from '../expression/functions/encodings.ts';
import { files } from '../expression/functions/files.ts';
import { items } from '../expression/functions/items.ts';
import { kinds } from '../expression/functions/kinds.ts';
import { lists } from '../expression/functions/lists.ts';
import { marks } from '../expression/functions/marks.ts';
import { objects } from '../expression/functions/objects.ts';
import { random } from '../expression/functions/random.ts';
import { response } from '../expression/functions/response.ts';
import { standard } from '../expression/functions/standard.ts';
import { texts } from '../expression/functions/texts.ts';
import { times } from '../expression/functions/times.ts';
import { xml } from '../expression/functions/xml.ts';
import type { Page, PageGroup } from './page.ts';

const families: readonly (readonly [heading: string, family: readonly FunctionDefinition[]])[] = [
  ['Of RFC 9535', standard],
  ['Presence and choice', conditions],
  ['Lists', lists],
  ['Over items', items],
  ['Objects', objects],
  ['Kinds', kinds],
  ['Texts', texts],
  ['Encodings and digests', encodings],
  ['Time', times],
  ['Chance', random],
  ['The response', response],
  ['XML', xml],
  ['Files', files],
  ['Marks', marks],
];

/** Every function, family by family. */
export function functionGroups(): readonly PageGroup[] {
  return families.map(([heading, family]) => ({ heading, pages: family.map(pageOf) }));
}

function pageOf(definition: FunctionDefinition): Page {
  const { name, parameters, about, example, errors, volatile } = definition;
  const [expression, result] = example;
  const rows = [
    ...parameters.map((parameter) => ({ label: parameter.name, text: argumentText(parameter) })),
    { label: 'gives', text: resultText(definition) },
    ...(errors === undefined ? [] : [{ label: 'errors', text: errors }]),
    ...(volatile ? [{ label: 'note', text: 'Another value each time; what it gave is recorded with the step.' }] : []),
  ];
  return {
    name,
    kind: 'function',
    heading: `${name}(${parameters.map((each) => (each.optional ? `[${each.name}]` : each.name)).join(', ')})`,
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
  return `${SORTS[sort] ?? what}${optional ? '; may be left out' : ''}`;
}

function resultText({ result }: FunctionDefinition): string {
  if (result === undefined) return 'a value that depends on its arguments';
  if (result === 'condition') return 'true or false';
  return `${/^[aeiou]/.test(result) ? 'an' : 'a'} ${result}`;
}
