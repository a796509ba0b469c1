import { callsOf } from '../chain/steps/inside.ts';
import type { CallStep } from '../chain/model.ts';
import { spaceBefore } from './complete-words.ts';
import { wordRange, type Completer, type Completion, type Editing } from './completion.ts';
import { holdsOf } from './fields.ts';

const METHODS = ['GET', 'POST', 'PUT', 'PATCH', 'DELETE', 'HEAD', 'OPTIONS'];

/** Methods, and the paths that the API's description has or that calls of the project are sent to. */
export const completeRequests: Completer = (editing) => {
  const { cursor, schemas } = editing;
  if (cursor.role === 'key' || !holdsOf(schemas).has('request-line') || /\{[^}]*$/.test(cursor.text)) return [];
  const range = wordRange(editing, cursor.start, /[^\s'"#]/);
  const space = spaceBefore(editing);
  const isMethod = !/\s/.test(cursor.text);
  const methods = isMethod
    ? METHODS.map((method): Completion => ({ label: method, sort: 'word', range, insert: `${space}${method} ` }))
    : [];
  const lines = [...described(editing), ...sentElsewhere(editing)].map(({ line, about }): Completion => ({
    label: line,
    sort: 'request',
    about,
    range,
    insert: space + line,
    rank: 0,
  }));
  return [...methods, ...lines];
};

type Line = Readonly<{ line: string; about: string | undefined }>;

/** Operations of the description that the API is held to, with values for the parameters of their paths left open. */
function described({ around, cursor, pieces, file }: Editing): readonly Line[] {
  const api = cursor.around.findLast(({ keys }) => keys.has('request') || keys.has('call'))?.keys.get('api');
  const { chain } = pieces.at(file.path, file.text, cursor.offset, () => '');
  const endpoint = around.endpointOf(
    chain,
    api === undefined ? undefined : ({ api: { text: api }, request: {} } as CallStep),
  );
  const contract = endpoint?.contract && around.contractOf(endpoint.contract.file.text);
  if (!contract || 'message' in contract) return [];
  return contract.description.operations.map((operation) => ({ line: operation.name, about: operation.summary }));
}

/** Request lines of the other chains of the project. */
function sentElsewhere({ around }: Editing): readonly Line[] {
  return around
    .chainFiles()
    .flatMap((file) => (lines(around.chainAt(file)) ?? []).map((line) => ({ line, about: `in ${file}` })));
}

function lines(chain: ReturnType<Editing['around']['chainAt']>): readonly string[] | undefined {
  return chain && callsOf(chain).flatMap(({ request: { line } }) => line?.source.text.trim() ?? []);
}
