/** A tag, a comment, an instruction or text of an XML document, in order. */
const TOKEN = /<!--[^]*?-->|<\?[^]*?\?>|<!\[CDATA\[[^]*?\]\]>|<!DOCTYPE[^[>]*(?:\[[^]*?\])?[^>]*>|<[^>]+>|[^<]+/g;

type Element = { open: string; close: string; children: (Element | string)[] };

/** Longer texts are shown as they came. */
const MAX_LENGTH = 2_000_000;

/**
 * XML with each element on a line of its own, two blanks deeper than the one around it. What has text beside elements stays
 * as it is, and so does a document that is not well-formed or asks for its blanks to be kept.
 */
export function indentedXml(text: string): string {
  if (text.length > MAX_LENGTH || text.includes('xml:space')) return text;
  const top: Element = { open: '', close: '', children: [] };
  const around = [top];
  for (const [token] of text.matchAll(TOKEN)) {
    const parent = around.at(-1)!;
    if (token.startsWith('</')) {
      if (around.length === 1 || nameOf(parent.open) !== nameOf(token)) return text;
      parent.close = token;
      around.pop();
    } else if (/^<[^!?]/.test(token) && !token.endsWith('/>')) {
      const element: Element = { open: token, close: '', children: [] };
      parent.children.push(element);
      around.push(element);
    } else {
      parent.children.push(token);
    }
  }
  if (around.length > 1) return text;
  return linesOf(top.children, '').join('\n');
}

function nameOf(tag: string): string {
  return /^<\/?([^\s/>]+)/.exec(tag)?.[1] ?? '';
}

function linesOf(children: Element['children'], pad: string): readonly string[] {
  return children
    .filter((child) => typeof child !== 'string' || child.trim() !== '')
    .flatMap((child) => {
      if (typeof child === 'string') return [pad + child.trim()];
      const { open, close, children: inner } = child;
      const isPlain = inner.some(isText) || inner.every((each) => typeof each === 'string' && each.trim() === '');
      return isPlain ? [pad + flat(child)] : [pad + open, ...linesOf(inner, `${pad}  `), pad + close];
    });
}

function isText(child: Element | string): boolean {
  return typeof child === 'string' && child.trim() !== '' && (!child.startsWith('<') || child.startsWith('<![CDATA['));
}

/** An element as it came, on one line where it has no more. */
function flat({ open, close, children }: Element): string {
  const inner = children.map((child) => (typeof child === 'string' ? child : flat(child))).join('');
  return open + (inner.trim() === '' ? '' : inner) + close;
}
