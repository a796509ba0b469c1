import { indentedXml } from '../../src/core/value/xml-indent.ts';

test.each([
  ['<a><b>1</b><c/></a>', '<a>\n  <b>1</b>\n  <c/>\n</a>'],
  ['<?xml version="1.0"?>\n<a x="1>2"/>', '<?xml version="1.0"?>\n<a x="1>2"/>'],
  ['<a>\n\n <b>\n<c>x</c> </b></a>', '<a>\n  <b>\n    <c>x</c>\n  </b>\n</a>'],
  ['<p>one <b>two</b> three</p>', '<p>one <b>two</b> three</p>'],
  ['<a><!-- why --><b><![CDATA[<x>]]></b></a>', '<a>\n  <!-- why -->\n  <b><![CDATA[<x>]]></b>\n</a>'],
  ['<a><b></a>', '<a><b></a>'],
  ['<a xml:space="preserve"><b/></a>', '<a xml:space="preserve"><b/></a>'],
  ['<a></a>', '<a></a>'],
  ['not XML', 'not XML'],
])('%s', (text, lines) => {
  expect(indentedXml(text)).toBe(lines);
  expect(indentedXml(lines)).toBe(lines);
});
