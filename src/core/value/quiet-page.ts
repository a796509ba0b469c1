/** What a text is that a browser would run if it were opened as it is. */
type PageForm = 'HTML page' | 'SVG image';

/** Whether a text is a page or a drawing, by how it begins; comments and declarations before it are passed over. */
export function pageForm(text: string): PageForm | undefined {
  const start = text
    .slice(0, 4096)
    .replace(/^\ufeff/, '')
    .replace(/^(?:\s+|<\?[^]*?\?>|<!--[^]*?-->|<!doctype\s+svg[^>]*>)*/i, '');
  if (/^<svg[\s>]/i.test(start)) return 'SVG image';
  return /^<(?:!doctype\s+html|html|head|body)[\s>]/i.test(start) ? 'HTML page' : undefined;
}

/**
 * A page that shows another one, or a drawing, and lets it do nothing: no scripts, no forms, no network. A drawing is an image,
 * which runs nothing anyway; a page is in a frame without any rights, and may load nothing but what it holds itself.
 */
export function quietPage(form: PageForm, text: string, title: string): string {
  const policy = `default-src 'none'; img-src data:; style-src 'unsafe-inline'; base-uri 'none'; form-action 'none'`;
  const shown =
    form === 'SVG image'
      ? `<img alt="${escaped(title)}" src="data:image/svg+xml;charset=utf-8,${encodeURIComponent(text)}">`
      : `<iframe sandbox title="${escaped(title)}" srcdoc="${escaped(text)}"></iframe>`;
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta http-equiv="Content-Security-Policy" content="${policy}">
<meta name="referrer" content="no-referrer">
<title>${escaped(title)}</title>
<style>
  body { margin: 0; font: 14px/1.5 system-ui, sans-serif; background: #fff; color: #1c2730; }
  p { margin: 0; padding: 8px 14px; background: #eef2f2; border-bottom: 1px solid #d9dfe3; }
  iframe { display: block; width: 100%; height: calc(100vh - 40px); border: 0; }
  img { display: block; max-width: 100%; margin: 0 auto; }
</style>
</head>
<body>
<p>${escaped(title)}: shown without scripts and without the network</p>
${shown}
</body>
</html>
`;
}

function escaped(text: string): string {
  return text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');
}
