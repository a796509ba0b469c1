import { readChain } from '../../src/core/chain/chain-file.ts';
import { endpointsOf } from '../../src/core/chain/endpoints.ts';
import { readProject } from '../../src/core/chain/project-file.ts';
import { callsOf } from '../../src/core/chain/steps/inside.ts';
import { chainProblems, projectProblems, told } from '../support/chains.ts';
import { chainOf, coreRun } from '../support/engine.ts';

const PROJECT = `apis:
  harbour: { url: https://harbour.example/v1, auth: { bearer: "{secret.KEY}" }, rate-limit: 4/minute }
  office: { url: https://harbour.example/v1/office, headers: { X-Office: "7" }, expect: [status == 201] }
  pilots:
    url: https://pilots.example
    deployments:
      near: { url: "https://near.example/{setting.lane}", settings: { lane: a } }
      far: { url: https://far.example, changes: never }
`;
const { project } = readProject({ path: 'batharon.yaml', text: PROJECT });

function endpointOf(request: string, at = 'near'): string {
  const { chain } = readChain({
    path: 'c.chain.yaml',
    text: `name: c\nsteps:\n  - call: c\n    request: "${request}"\n`,
  });
  const found = endpointsOf(project, { all: undefined, byApi: { pilots: at } })(chain!, callsOf(chain!)[0]);
  return found ? `${found.api}${found.deployment === undefined ? '' : ` ${found.deployment}`}` : 'none';
}

test.each([
  ['GET https://harbour.example/v1/vessels', 'harbour'],
  ['GET https://harbour.example/v1', 'harbour'],
  ['GET https://harbour.example/v1?day=1', 'harbour'],
  ['GET https://harbour.example/v1{?day}', 'harbour'],
  ['GET https://HARBOUR.example:443/v1/vessels', 'harbour'],
  ['GET https://harbour.example/v1/office/desks', 'office'],
  ['GET https://harbour.example/v1/officers', 'harbour'],
  ['GET https://harbour.example/v1/office{desk}', 'harbour'],
  ['GET https://harbour.example/v1{desk}', 'none'],
  ['GET https://harbour.example/v1x/vessels', 'none'],
  ['GET http://harbour.example/v1/vessels', 'none'],
  ['GET https://harbour.example:8443/v1/vessels', 'none'],
  ['GET https://near.example/a/pilots', 'pilots near'],
  ['GET https://far.example/pilots', 'none'],
])('%s is a request of %s', (request, wanted) => {
  expect(endpointOf(request)).toBe(wanted);
});

test('a whole URL goes by the deployment that is chosen, and by its own api where another is the default of the chain', () => {
  expect(endpointOf('POST https://far.example/pilots', 'far')).toBe('pilots far');
  const chain = `name: c\napi: office\nsteps:\n  - call: c\n    request: GET https://harbour.example/v1/vessels\n`;
  expect(told(chainProblems(chain, PROJECT))).toEqual([]);
  const named = chain.replace('call: c', 'call: c\n    api: office');
  expect(told(chainProblems(named, PROJECT))).toEqual(['other-api 6:18']);
});

test('a whole URL brings what its api says: credentials, headers, expectations', async () => {
  const run = await coreRun(
    chainOf(
      '- call: a\n  request: GET https://harbour.example/v1/vessels\n- call: b\n  request: GET https://harbour.example/v1/office/desks\n',
    ),
    { project: PROJECT, secrets: { KEY: 'k-4711' }, answers: [{ body: '{}' }] },
  );
  const header = (i: number, wanted: string) => run.sent[i]?.headers.find(([name]) => name === wanted)?.[1];
  expect([header(0, 'Authorization'), header(0, 'X-Office')]).toEqual(['Bearer k-4711', undefined]);
  expect([header(1, 'Authorization'), header(1, 'X-Office')]).toEqual([undefined, '7']);
  expect([run.exit, run.codes]).toEqual([1, ['expectation-false']]);
});

test('headers of an api are those that a call may have', () => {
  const text = 'apis:\n  a:\n    url: https://a.example\n    headers: { Host: b.example, "X y": z }\n';
  expect(told(projectProblems(text))).toEqual(['reserved-header 4:16', 'reserved-header 4:33']);
});

test("a call's own cookies stand beside those that were set", async () => {
  const text = '- call: a\n  request: GET /a\n- call: b\n  request: GET /b\n  headers: { Cookie: mode=plain }\n';
  const answers = [{ headers: [['Set-Cookie', 'sid=s-1; Path=/']] as const, body: '{}' }];
  for (const auth of ['', ', auth: { api-key: { cookie: key, value: "{secret.KEY}" } }']) {
    const run = await coreRun(chainOf(text), {
      project: `apis:\n  harbour: { url: "http://127.0.0.1:1/v1"${auth} }\n`,
      secrets: { KEY: 'k-4711' },
      answers,
    });
    const cookies = run.sent[1]?.headers.filter(([name]) => name === 'Cookie').map(([, value]) => value);
    expect(cookies).toEqual([`mode=plain; sid=s-1${auth && '; key=k-4711'}`]);
  }
});
