import { ungrouped, type Node, type PathNode } from '../../expression/model.ts';
import { parseExpression } from '../../expression/parse.ts';
import { writtenPath } from '../../path/normalized.ts';
import { pointerKeys, pointerPart } from '../../value/json-pointer.ts';

/** How names of a document are called in a chain: outputs of steps, and inputs. */
export type Names = Readonly<{ ofOutput(step: string, output: string): string; ofInput(input: string): string }>;

const REFERENCE =
  /\$(?:statusCode|url|method|response\.header\.[\w-]+|response\.body(?:#[^\s{}"',()=!<>&|]*)?|inputs\.[\w.-]+|steps\.[\w-]+\.outputs\.[\w-]+(?:#[^\s{}"',()=!<>&|]*)?)/g;

/** A runtime expression (Arazzo 1.0.1 section 4.7) as an expression of a chain; nothing where it has no counterpart. */
export function fromRuntime(text: string, names: Names): string | undefined {
  const [whole] = text.match(REFERENCE) ?? [];
  return whole === text ? converted(text, names) : undefined;
}

function converted(text: string, names: Names): string | undefined {
  if (text === '$statusCode') return 'status';
  if (text === '$url') return 'url';
  const header = /^\$response\.header\.(.+)$/.exec(text)?.[1];
  if (header !== undefined) return `headers.${header.toLowerCase().replaceAll('-', '_')}`;
  const body = /^\$response\.body(?:#(.*))?$/.exec(text);
  if (body) return pathOf('$', body[1] ?? '');
  const input = /^\$inputs\.([\w-]+)((?:\.[\w-]+)*)$/.exec(text);
  if (input) return names.ofInput(input[1]!) + input[2]!;
  const output = /^\$steps\.([\w-]+)\.outputs\.([\w-]+)(?:#(.*))?$/.exec(text);
  return output ? pathOf(names.ofOutput(output[1]!, output[2]!), output[3] ?? '') : undefined;
}

function pathOf(start: string, pointer: string): string {
  return writtenPath(
    pointerKeys(pointer).map((key) => (/^\d+$/.test(key) ? Number(key) : key)),
    start,
  );
}

/** A text with runtime expressions in braces, or which is one; `mark` makes a placeholder of an expression. */
export function textFromRuntime(text: string, names: Names, mark: (expression: string) => string): string | undefined {
  const whole = fromRuntime(text, names);
  if (whole !== undefined) return mark(whole);
  if (/^\$(?:inputs|steps|response|request|outputs|workflows|components|message)\./.test(text)) return undefined;
  let isWhole = true;
  const written = text.replace(/\{(\$[^{}]+)\}/g, (_all, inner: string) => {
    const found = fromRuntime(inner, names);
    isWhole &&= found !== undefined;
    return found === undefined ? '' : mark(found);
  });
  return isWhole ? written : undefined;
}

/** A simple condition (section 4.6.12) as a condition of a chain; nothing where it has no counterpart. */
export function conditionFromRuntime(text: string, names: Names): string | undefined {
  let isWhole = true;
  const written = text.replace(REFERENCE, (each) => {
    const found = converted(each, names);
    isWhole &&= found !== undefined;
    return found ?? '';
  });
  const { tree, problems } = parseExpression(written);
  return isWhole && tree && problems.length === 0 && !/\$[a-z]/.test(written) ? written : undefined;
}

/** What names of a chain are in a document: `$inputs.day`, `$steps.vessel.outputs.draught`. */
type RuntimeOf = (name: string) => string | undefined;

/** An expression of a chain as a runtime expression; nothing for one that is more than a reference. */
export function toRuntime(node: Node, of: RuntimeOf): string | undefined {
  const path = ungrouped(node);
  if (path.kind !== 'path' || path.start.kind === 'value' || path.start.kind === 'item') return undefined;
  const keys = keysOf(path.segments);
  if (!keys) return undefined;
  const pointer = keys.map((key) => pointerPart(key!)).join('');
  if (path.start.kind === 'body') return `$response.body${pointer === '' ? '' : `#${pointer}`}`;
  const { name } = path.start;
  if (name === 'status' && keys.length === 0) return '$statusCode';
  if (name === 'headers' && keys.length === 1) return `$response.header.${String(keys[0]).replaceAll('_', '-')}`;
  return below(of(name), keys, pointer);
}

/** A place in the value of a name: members of an input have names, all else is reached by a pointer. */
function below(base: string | undefined, keys: readonly (string | number)[], pointer: string): string | undefined {
  if (base === undefined || keys.length === 0) return base;
  const isOfInput = base.startsWith('$inputs.') && keys.every((key) => typeof key === 'string');
  return isOfInput ? `${base}.${keys.join('.')}` : `${base}#${pointer}`;
}

/** The members and items that a path leads through one by one; nothing of one that may lead to several. */
function keysOf(segments: PathNode['segments']): readonly (string | number)[] | undefined {
  const keys = segments.map(({ descends, selectors: [selector, more] }) => {
    if (descends || !selector || more) return undefined;
    if (selector.kind === 'name') return selector.name;
    return selector.kind === 'index' && selector.index >= 0 ? selector.index : undefined;
  });
  return keys.some((key) => key === undefined) ? undefined : (keys as readonly (string | number)[]);
}

/** A condition of a chain as a simple condition; nothing where a part of it has no counterpart. */
export function conditionToRuntime(node: Node, text: string, of: RuntimeOf): string | undefined {
  const inner = ungrouped(node);
  if (inner.kind === 'literal') return text.slice(...inner.range);
  if (inner.kind === 'path') return toRuntime(inner, of);
  if (inner.kind !== 'binary' || !['==', '!=', '<', '<=', '>', '>=', '&&', '||'].includes(inner.operator))
    return undefined;
  const [left, right] = [conditionToRuntime(inner.left, text, of), conditionToRuntime(inner.right, text, of)];
  if (left === undefined || right === undefined) return undefined;
  return node.kind === 'group' ? `(${left} ${inner.operator} ${right})` : `${left} ${inner.operator} ${right}`;
}
