// Answers with lines of JSON, of so many bytes together, as fast as they are taken.
import { createServer } from 'node:http';

const remark = 'x'.repeat(100);
const server = createServer(async (request, response) => {
  const size = Number(new URL(request.url, 'http://127.0.0.1').searchParams.get('size'));
  response.writeHead(200, { 'content-type': 'application/x-ndjson' });
  let [sent, number] = [0, 0];
  while (sent < size) {
    let lines = '';
    while (lines.length < 65_536) {
      lines += `${JSON.stringify({ id: `KM ${number}/4`, number, name: 'Grafjord', remark, draught: number / 8 })}\n`;
      number++;
    }
    sent += lines.length;
    if (!response.write(lines)) await new Promise((resolve) => response.once('drain', resolve));
  }
  response.end();
});
server.listen(0, '127.0.0.1', () => console.log(server.address().port));
