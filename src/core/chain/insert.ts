import type { SourceFile } from '../diagnostics/source.ts';
import { edited, withItem, withNamed } from '../yaml/edit.ts';
import { readYaml } from '../yaml/read.ts';
import { entryOf, type YamlMap, type YamlNode } from '../yaml/tree.ts';

/** Why something cannot be put into a chain file, and what to do. */
type NotInserted = Readonly<{ message: string; advice?: string }>;

/** A chain file with one more `keep` in a call, known by its name; everything else stays as it is. */
export function withKeep(
  file: SourceFile,
  call: string | undefined,
  name: string,
  expression: string,
): string | NotInserted {
  const steps = stepsOf(file);
  if ('message' in steps) return steps;
  const calls = callsIn(steps);
  const target = calls.find((step) => nameOf(step) === call) ?? (call === undefined ? calls.at(-1) : undefined);
  if (!target) {
    const names = calls.map(nameOf).join(', ');
    return {
      message: `${file.path} has no call "${call ?? ''}"`,
      ...(names ? { advice: `Its calls are ${names}.` } : {}),
    };
  }
  const kept = entryOf(target, 'keep')?.value;
  if (kept && entryOf(kept, name)) {
    return { message: `The call "${nameOf(target)}" already keeps "${name}"`, advice: 'Choose another name.' };
  }
  return edited(file, withNamed(file, target, 'keep', name, expression));
}

/** A chain file with one more step at its end. */
export function withStep(file: SourceFile, lines: readonly string[]): string | NotInserted {
  const steps = stepsOf(file);
  return 'message' in steps ? steps : edited(file, withItem(file, steps, lines));
}

function stepsOf(file: SourceFile): Extract<YamlNode, { kind: 'list' }> | NotInserted {
  const tree = readYaml({ file, report: () => {} });
  const steps = tree && entryOf(tree, 'steps')?.value;
  if (steps?.kind === 'list' && steps.items.length > 0 && !steps.flow) return steps;
  return {
    message: `${file.path} has no steps to add to`,
    advice: 'Make sure that it is a chain file: batharon check',
  };
}

/** The calls of a list of steps, those inside branches too. */
function callsIn(node: YamlNode): readonly YamlMap[] {
  if (node.kind === 'list') return node.items.flatMap(callsIn);
  if (node.kind !== 'map') return [];
  if (entryOf(node, 'call')) return [node];
  return ['steps', 'otherwise'].flatMap((key) => {
    const inner = entryOf(node, key)?.value;
    return inner ? callsIn(inner) : [];
  });
}

function nameOf(step: YamlMap): string {
  const name = entryOf(step, 'call')?.value;
  return name?.kind === 'scalar' ? name.source.text : '';
}
