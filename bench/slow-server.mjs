// A server that answers each request after 20 milliseconds; says its port.
import { createServer } from 'node:http';

const server = createServer((_request, response) => {
  setTimeout(() => response.writeHead(200, { 'content-type': 'application/json' }).end('{"number":1}'), 20);
});
server.listen(0, '127.0.0.1', () => console.log(server.address().port));
