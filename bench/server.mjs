// A server with as little of its own as possible; says its port, and answers /vessels/N with the number and the next.
import { createServer } from 'node:http';

const server = createServer((request, response) => {
  const number = Number(request.url.slice(request.url.lastIndexOf('/') + 1));
  const body = JSON.stringify({
    number,
    next: number + 1,
    id: `KM ${number}/4`,
    name: 'Gråfjord',
    master: 'I. Haldorsen',
    ports: ['Kvitnes', 'Sund', 'Holm'],
    cargo: Array.from({ length: 8 }, (_, i) => ({ item: i, what: 'stockfish', tonnes: 12.5 })),
  });
  response.writeHead(200, { 'content-type': 'application/json', 'content-length': Buffer.byteLength(body) });
  response.end(body);
});
server.listen(0, '127.0.0.1', () => console.log(server.address().port));
