import { isMap, LineCounter, parseDocument, type Node } from 'yaml';

/** Gives the line, counted from 1, of the member that keys lead to in a YAML text; of the nearest around it where it is not there. */
export function yamlLines(text: string): (keys: readonly string[]) => number | undefined {
  const lines = new LineCounter();
  const document = parseDocument(text, { lineCounter: lines, logLevel: 'silent', schema: 'core', uniqueKeys: false });
  return (keys) => {
    for (let length = keys.length; length >= 0; length--) {
      const above = document.getIn(keys.slice(0, length - 1), true);
      const pair = isMap(above) ? above.items.find(({ key }) => String(key) === keys[length - 1]) : undefined;
      const node = (pair?.key ?? document.getIn(keys.slice(0, length), true)) as Node | undefined;
      const from = node?.range?.[0];
      if (from !== undefined) return lines.linePos(from).line;
    }
    return undefined;
  };
}
