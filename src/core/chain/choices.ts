import { diagnosticIn, wholeOf, type Diagnostic, type Source } from '../diagnostics/source.ts';
import { didYouMean } from '../diagnostics/suggest.ts';
import { textOf } from '../value/text.ts';
import { isList, isObject, memberOf, numberOf, type Maybe, type Value } from '../value/value.ts';
import { changesSomething } from './changes.ts';
import type { Chain, ChoicesFrom } from './model.ts';
import { callsOf } from './steps/inside.ts';

/** A value that an input may have, and what a person reads for it. */
export type Choice = Readonly<{ value: Value; label: string }>;

/** What is wrong with a chain that is to give choices: it must need nothing, and give a list under the name. */
export function checkChoices({ chain: file, name }: ChoicesFrom, used: Chain): readonly Diagnostic[] {
  const report = (source: Source, message: string, advice: string) =>
    diagnosticIn(source, { code: 'choices-chain', range: wholeOf(source), message, advice });
  const needed = used.inputs.filter((input) => !input.default && !input.optional);
  const outputs = used.outputs.map((each) => each.name);
  return [
    ...(needed[0]
      ? [report(file, `The chain ${used.name} needs the input "${needed[0].name}"`, 'Add a default to that input.')]
      : []),
    ...changesIn(file, used),
    ...(outputs.includes(name.text)
      ? []
      : [
          report(
            name,
            `The chain ${used.name} has no output "${name.text}"`,
            didYouMean(name.text, outputs) ??
              (outputs.length > 0 ? `Its outputs are ${outputs.join(', ')}.` : 'Declare its outputs under outputs.'),
          ),
        ]),
  ];
}

/** A chain that gives choices changes nothing: it runs before anybody has said what is to be done. */
export function changesIn(file: Source, used: Chain): readonly Diagnostic[] {
  const call = callsOf(used).find(changesSomething);
  if (!call) return [];
  const message = `The chain ${used.name} changes something in its call "${call.name}"`;
  const advice = 'Take choices from a chain that only reads.';
  return [diagnosticIn(file, { code: 'choices-chain', range: wholeOf(file), message, advice })];
}

/** The choices that a chain gave: texts, numbers, or objects of a `value` and a `label`; nothing when it is no such list. */
export function choicesIn(given: Maybe): readonly Choice[] | undefined {
  if (!isList(given)) return undefined;
  const choices = given.map((each) =>
    isObject(each) ? labelled(memberOf(each, 'value'), memberOf(each, 'label')) : labelled(each, each),
  );
  return choices.every((each) => each !== undefined) ? choices : undefined;
}

function labelled(value: Maybe, label: Maybe): Choice | undefined {
  if (typeof value !== 'string' && numberOf(value) === undefined) return undefined;
  const text = label === undefined ? value! : label;
  const shown = text === null || isList(text) || isObject(text) ? undefined : textOf(text);
  return typeof shown === 'string' ? { value: value!, label: shown } : undefined;
}
