import { pageText } from '../../src/core/http/text-form.ts';
import { chainOf, coreRun } from '../support/engine.ts';

const PAGE = `<!DOCTYPE html>
<html><head><title>502 Bad Gateway</title><style>b { color: red }</style></head>
<body><h1>The quay is closed</h1><p>Try again at <b>high&nbsp;water</b> &amp; calm&#46;</p><script>alert(1)</script></body></html>`;

/** What a call that reads `$.id` says of a body of a media type. */
async function told(type: string, body: string, status = 200): Promise<string> {
  const chain = chainOf('- call: a\n  request: GET /a\n  keep: { id: $.id }\n- say: "{id}"');
  const { events } = await coreRun(chain, { answers: [{ type, body, status }] });
  const ended = events.find((event) => event.type === 'ended' && event.kind === 'call');
  return JSON.stringify(ended);
}

test.each([
  [
    'text/html',
    PAGE,
    'the body is an HTML page: 502 Bad Gateway / The quay is closed / Try again at high water & calm.',
  ],
  ['text/html', PAGE, 'check the URL, and whether a sign-in is needed'],
  ['text/plain', '{"id": 7}', 'add read-as: json'],
  ['application/octet-stream', '{"id": 7}', 'the body was read as bytes'],
  ['text/plain', '{"id": 7}\n{"id": 8}\n', 'add read-as: ndjson'],
  ['text/plain', 'id,name\n7,x\n8,y\n', 'add read-as: csv'],
  ['text/plain', '<?xml version="1.0"?><a><id>7</id></a>', 'add read-as: xml, and read it with xpath()'],
  ['application/json', PAGE, 'The server sent an HTML page'],
  ['application/json', '{"id": 7}\n{"id": 8}\n', 'add read-as: ndjson'],
  ['application/json', '<a/>', 'add read-as: xml'],
  ['text/plain', 'The quay, as said, is closed', '$ is a string'],
])('%s with %s', async (type, body, message) => {
  expect(await told(type, body)).toContain(message);
});

test('JSON that is broken is not said to be anything else', async () => {
  expect(await told('application/json', '{"id": 7')).not.toMatch(/looks like|HTML/);
});

test('an error page is told as a person reads it', async () => {
  expect(await told('text/html', PAGE, 502)).toContain(
    '"text":"502 Bad Gateway\\nThe quay is closed\\nTry again at high water & calm."',
  );
  expect(pageText('plain <b>text</b>')).toBe('plain <b>text</b>');
  expect(pageText('<html><body>one<br>two<ul><li>three<li>four</ul></body></html>')).toBe('one\ntwo\nthree\nfour');
});
