import { didYouMean } from '../diagnostics/suggest.ts';
import { diagnosticAt, diagnosticIn, wholeOf, type Diagnostic } from '../diagnostics/source.ts';
import type { ChainUse } from '../http/auth/definition.ts';
import type { NamedEntry } from '../schema/leaves.ts';
import { fillValue, type Resolver } from '../template/fill.ts';
import { plainTextOf, textsOf, type ValueTemplate } from '../template/template.ts';
import { folderOf, joined } from '../value/file-names.ts';
import { missingInputs, problemsOfConstant } from './inputs.ts';
import type { EndpointOf } from './endpoints.ts';
import type { Chain, ChainStep, ChoicesFrom } from './model.ts';
import { callsOf, stepsOf } from './steps/inside.ts';
import type { Project } from './project-file.ts';
import { eachNode } from './walk.ts';

/**
 * The chains that a chain uses, those by which its apis are signed in to, and those that are steps of it. `signingIn` is the
 * api that the chain itself signs in to, whose credentials it does not need.
 */
export function usesOf(chain: Chain, endpointOf: EndpointOf, signingIn: string | undefined): readonly UsedChain[] {
  const found = new Map<ChainUse, UsedChain>();
  for (const call of callsOf(chain)) {
    const { request } = call;
    const endpoint = endpointOf(chain, call);
    const auth = request.auth === 'none' ? undefined : (request.auth ?? endpoint?.auth);
    if (!auth?.chain || endpoint?.api === signingIn) continue;
    if (!found.has(auth.chain)) found.set(auth.chain, { ...auth.chain, signsInTo: endpoint?.api ?? '' });
  }
  const steps = stepsOf(chain).flatMap((step) =>
    step.kind === 'chain' ? [{ ...useOfStep(step), signsInTo: undefined }] : [],
  );
  const choices = chain.inputs.flatMap(({ choicesFrom }) =>
    choicesFrom ? [{ file: choicesFrom.chain, inputs: [], reads: [], signsInTo: undefined, choices: choicesFrom }] : [],
  );
  return [...found.values(), ...steps, ...choices];
}

/** A chain that is used, and the api that it signs in to if that is what it is used for; or what it gives choices for. */
type UsedChain = ChainUse & Readonly<{ signsInTo: string | undefined; choices?: ChoicesFrom }>;

function useOfStep({ file, inputs, keep }: ChainStep): ChainUse {
  const reads = keep.flatMap(({ value: { tree, source } }) => (tree ? [{ node: tree, source }] : []));
  return { file, inputs, reads };
}

/** What is wrong with how a chain is used: what it takes and is not given, and what is read of it that it does not give. */
export function checkUse({ file, inputs, reads }: ChainUse, used: Chain): readonly Diagnostic[] {
  // What an object gives is known only when it is there.
  const named = inputs.filter(({ whole }) => !whole);
  const given = new Set(named.map(({ name }) => name));
  const known = used.inputs.map(({ name }) => name);
  const lacking = named.length < inputs.length ? [] : missingInputs(used, given);
  const outputs = used.outputs.map(({ name }) => name);
  const missing = lacking.map(({ name }) => name).join(', ');
  return [
    ...(lacking.length === 0
      ? []
      : [
          diagnosticIn(file, {
            code: 'missing-step-input',
            range: wholeOf(file),
            message: `The chain ${used.name} needs the input ${missing}, which is not passed here`,
            advice: 'Add it under inputs.',
          }),
        ]),
    ...named.flatMap((entry) =>
      known.includes(entry.name)
        ? wrongConstant(entry, used)
        : [
            diagnosticAt(entry.file, {
              code: 'unknown-step-input',
              range: entry.nameRange,
              message: `The chain ${used.name} has no input "${entry.name}"`,
              advice:
                didYouMean(entry.name, known) ??
                (known.length > 0 ? `Its inputs are ${known.join(', ')}.` : 'It has no inputs.'),
            }),
          ],
    ),
    ...reads.flatMap(({ node: tree, source }) => {
      const problems: Diagnostic[] = [];
      eachNode(tree, (node) => {
        if (node.kind !== 'path' || node.start.kind !== 'name' || node.start.name !== 'outputs') return;
        const selector = node.segments[0]?.selectors[0];
        const name = selector?.kind === 'name' ? selector.name : undefined;
        if (name === undefined || outputs.includes(name)) return;
        const advice =
          didYouMean(name, outputs) ??
          (outputs.length > 0 ? `Its outputs are ${outputs.join(', ')}.` : 'It has no outputs.');
        const message = `The chain ${used.name} has no output "${name}"`;
        problems.push(diagnosticIn(source, { code: 'not-given', range: node.range, message, advice }));
      });
      return problems;
    }),
  ];
}

/** A value without placeholders that the input of a used chain does not take. */
function wrongConstant(
  { name, nameRange, file, value }: NamedEntry<ValueTemplate>,
  used: Chain,
): readonly Diagnostic[] {
  const input = used.inputs.find((each) => each.name === name);
  if (!input || textsOf(value).some((text) => plainTextOf(text) === undefined)) return [];
  const filled = fillValue(value, NO_PLACEHOLDERS);
  const source = value.kind === 'text' ? value.source : { file, text: name, locate: () => nameRange };
  return filled === 'left-out' ? [] : problemsOfConstant(input, { value: filled.value, source });
}

const NO_PLACEHOLDERS: Resolver = { value: () => undefined, leavesOut: () => false, forRecord: false };

/** The api that a chain signs in to, if there is one: its own calls to that api carry no credentials. */
export function signsInTo(chain: Chain, project: Project | undefined): string | undefined {
  const plain = (path: string) => path.replaceAll('\\', '/').replace(/(^|\/)\.\//g, '$1');
  for (const { api, auth } of (project?.apis ?? []).flatMap(({ endpoints }) => endpoints)) {
    const file = auth?.chain?.file;
    if (file && plain(joined(folderOf(file.file.path), file.text)) === plain(chain.file.path)) return api;
  }
  return undefined;
}
