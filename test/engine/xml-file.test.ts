import { chainOf, coreRun } from '../support/engine.ts';
import { openerOf } from '../support/hosts.ts';

const files: Readonly<Record<string, string>> = {
  'order.xml': `<?xml version="1.0"?>\n<o xmlns:c="urn:cargo" no="1">\n  <!-- as documented -->\n  <c:line n="1"><c:weight>5</c:weight></c:line>\n  <c:line n="2"/>\n  <note>x</note>\n</o>`,
  'plain.xml': '<order xmlns="urn:order"><note/></order>',
  'order.json': '{}',
};

const openFile = openerOf(files);

function sentWith(body: string) {
  const call = `- let: { vessel: "'KM 204/5 <&\\">'", n: 3 }\n- call: c\n  request: POST /o\n${body.replace(/^/gm, '  ')}`;
  return coreRun(chainOf(call), { answers: [{ status: 200, body: '{}' }], host: { openFile } });
}

test.each([
  ['xml-file as it stands', 'xml-file: order.xml', files['order.xml']!],
  [
    'xml-file with values put in by XPath, an attribute added, an element left out',
    'xml-file: order.xml\nset:\n  /o/@no: "{n}"\n  /o/@day: 23\n  //c:line[1]/c:weight: "{vessel}"\n  /o/note: null\n  //c:line[2]: { "@n": 7, .: full }',
    '<?xml version="1.0"?>\n<o xmlns:c="urn:cargo" no="3" day="23">\n  <!-- as documented -->\n  <c:line n="1"><c:weight>KM 204/5 &lt;&amp;"&gt;</c:weight></c:line>\n  <c:line n="7">full</c:line>\n</o>',
  ],
  [
    'xml-file with an element for each item of an array',
    'xml-file: order.xml\nset:\n  //c:line: [{ "@n": 1, "c:weight": "{n}" }, { "@n": 2, "c:weight": null }, { "c:weight": [8, 9] }]',
    '<?xml version="1.0"?>\n<o xmlns:c="urn:cargo" no="1">\n  <!-- as documented -->\n  <c:line n="1"><c:weight>3</c:weight></c:line>\n  <c:line n="2"/>\n  <c:line n="1"><c:weight>8</c:weight><c:weight>9</c:weight></c:line>\n  <note>x</note>\n</o>',
  ],
  [
    'xml-file with an empty array, and a namespace of the call',
    'xml-file: plain.xml\nnamespaces: { n: "urn:order" }\nset:\n  /n:order/n:note: []',
    '<order xmlns="urn:order"/>',
  ],
])('%s', async (_name, body, wanted) => {
  const [sent] = (await sentWith(body)).sent;
  expect(sent!.body).toBe(wanted);
  expect(sent!.headers).toContainEqual(['Content-Type', 'application/xml; charset=utf-8']);
});

test.each([
  ['an XPath that does not parse', 'xml-file: order.xml\nset: { "/o/[": x }', 'invalid-xpath'],
  ['an XPath that gives no place', 'xml-file: order.xml\nset: { "count(//note)": x }', 'invalid-xpath'],
  ['an XPath with a prefix of no namespace', 'xml-file: order.xml\nset: { "//q:line": x }', 'invalid-xpath'],
  ['an XPath that finds nothing', 'xml-file: order.xml\nset: { /o/nothing: x }', 'found-nothing'],
  ['an attribute that is nearly another', 'xml-file: order.xml\nset: { //note/../@nr: x }', 'found-nothing'],
  ['an XPath without the namespace of the file', 'xml-file: plain.xml\nset: { /order/note: x }', 'found-nothing'],
  ['an array for an attribute', 'xml-file: order.xml\nset: { /o/@no: [1, 2] }', 'invalid-value'],
  ['an array for the whole document', 'xml-file: order.xml\nset: { /o: [1] }', 'invalid-value'],
  ['an object for an attribute', 'xml-file: order.xml\nset: { /o/@no: { a: 1 } }', 'invalid-value'],
  ['a value that XML cannot hold', `xml-file: order.xml\nset: { /o/note: "{url_decoded('%07')}" }`, 'invalid-value'],
  ['a file that is not XML', 'xml-file: order.json\nset: { /o: x }', 'not-decodable'],
])('%s is told before anything is sent', async (_name, body, code) => {
  await sentWith(body).then(
    (run) => {
      expect(run.codes).toContain(code);
      expect(run.sent).toHaveLength(0);
    },
    (error: Error) => expect(error.message).toContain(code),
  );
});
