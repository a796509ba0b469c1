import type { HttpRequest, HttpResponse } from '../../src/core/http/message.ts';
import { redirectOf } from '../../src/core/http/redirect.ts';

const request = (method: string, url = 'https://harbour.example/v1/a'): HttpRequest => ({ method, url, headers: [] });
const response = (status: number, location?: string): HttpResponse => ({
  status,
  reason: '',
  http: '1.1',
  headers: location === undefined ? [] : [['Location', location]],
  body: new Uint8Array(),
  encodedSize: 0,
  reused: false,
  timings: { blocked: 0, dns: 0, connect: 0, tls: 0, send: 0, wait: 0, receive: 0 },
});

describe('where a redirect leads', () => {
  test.each([
    [301, 'GET', 'GET', true],
    [301, 'POST', 'GET', false],
    [302, 'POST', 'GET', false],
    [302, 'PUT', 'PUT', true],
    [303, 'PUT', 'GET', false],
    [303, 'HEAD', 'HEAD', true],
    [307, 'POST', 'POST', true],
    [308, 'PATCH', 'PATCH', true],
  ])('%d of a %s becomes a %s', (status, method, next, keepsBody) => {
    const from = request(method);
    expect(redirectOf(from, response(status, '../b?x=1#part'), [from])).toEqual({
      url: 'https://harbour.example/b?x=1',
      method: next,
      keepsBody,
    });
  });

  test.each([
    [200, '/b'],
    [304, '/b'],
    [300, '/b'],
    [302, undefined],
  ])('%d with %s is none', (status, location) =>
    expect(redirectOf(request('GET'), response(status, location), [])).toBeUndefined(),
  );

  test.each([
    ['POST', 307, 'https://elsewhere.example/', 'redirect-refused'],
    ['GET', 302, 'http://harbour.example/v1/b', 'redirect-refused'],
    ['GET', 302, 'ftp://harbour.example/', 'redirect-refused'],
    ['GET', 302, 'http://[', 'redirect-refused'],
    ['GET', 302, '/v1/a', 'redirect-loop'],
  ])('%s %d to %s: %s', (method, status, location, code) => {
    const from = request(method);
    expect(redirectOf(from, response(status, location), [from])).toMatchObject({ code });
  });

  test('the eleventh is refused', () => {
    const visited = Array.from({ length: 11 }, (_, i) => request('GET', `https://harbour.example/${i}`));
    expect(redirectOf(visited[10]!, response(302, '/next'), visited)).toMatchObject({ code: 'redirect-refused' });
    expect(redirectOf(visited[9]!, response(302, '/next'), visited.slice(0, 10))).toHaveProperty('url');
  });
});
