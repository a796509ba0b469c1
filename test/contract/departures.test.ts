import { departuresOf, type JudgedResponse } from '../../src/core/contract/judge-response.ts';
import type { Value } from '../../src/core/value/value.ts';
import { harbourContract } from '../support/contracts.ts';
import { TOKEN, useHarbour } from '../support/harbour.ts';

const harbour = useHarbour();
const contract = harbourContract();

type Asked = readonly [id: string, path: string, init?: RequestInit];
const JSON_BODY = { 'Content-Type': 'application/json' };
const ASKED: readonly Asked[] = [
  ['listVessels', '/vessels'],
  ['listArrivals', '/arrivals?day=2026-05-23'],
  ['listBerths', '/berths'],
  ['getBerth', '/berths/N1'],
  ['createBerth', '/berths', { method: 'POST', headers: JSON_BODY, body: '{"name":"N 9","depth":7,"quay":"N"}' }],
  ['getTides', '/tides', { headers: { Accept: 'application/json' } }],
  ['getWeather', '/weather/slow?ms=1'],
  ['getVessel', '/vessels/nobody'],
];

/** What the harbour answers, as it is judged. */
async function answers(): Promise<ReadonlyMap<string, JudgedResponse>> {
  const found = new Map<string, JudgedResponse>();
  for (const [id, path, init] of ASKED) {
    const headers = { Authorization: `Bearer ${TOKEN}`, ...(init?.headers as Record<string, string>) };
    const response = await fetch(`${harbour().url}/v1${path}`, { ...init, headers });
    const json = (await response.json()) as Value;
    found.set(id, { status: response.status, headers: [...response.headers], hasBody: true, json });
  }
  return found;
}

type Changing = Record<string, never>;
type Way = readonly [
  id: string,
  what: string,
  change: (answer: JudgedResponse, json: Changing) => JudgedResponse | void,
  place?: string,
];
const at = (json: unknown, ...keys: (string | number)[]) =>
  keys.reduce<never>((value, key) => (value as never)[key], json as never) as Record<string, unknown>;
const without = (answer: JudgedResponse, name: string) => ({
  ...answer,
  headers: answer.headers.filter(([each]) => each.toLowerCase() !== name),
});
const as = (answer: JudgedResponse, type: string): JudgedResponse => ({
  ...without(answer, 'content-type'),
  headers: [...without(answer, 'content-type').headers, ['content-type', type]],
});

/** Thirty ways to depart, each from one answer of the real harbour. */
const WAYS: readonly Way[] = [
  [
    'listVessels',
    'a list under another name',
    (_, json) => void (Object.assign(json, { ships: json['vessels'] }), delete json['vessels']),
    '',
  ],
  ['listVessels', 'an object in place of the list', (_, json) => void Object.assign(json, { vessels: {} }), 'vessels'],
  ['listVessels', 'a member that is gone', (_, json) => void delete at(json, 'vessels', 3)['master'], 'vessels,3'],
  [
    'listVessels',
    'a member that is new where none may be',
    (_, json) => void (at(json, 'vessels', 0)['hull'] = 'steel'),
    'vessels,0',
  ],
  [
    'listVessels',
    'a flag that is none of the choices',
    (_, json) => void (at(json, 'vessels', 1)['flag'] = 'XX'),
    'vessels,1,flag',
  ],
  [
    'listVessels',
    'a number as text',
    (_, json) => void (at(json, 'vessels', 2)['draught'] = '5.5'),
    'vessels,2,draught',
  ],
  [
    'listVessels',
    'a fraction for a whole number',
    (_, json) => void (at(json, 'vessels', 2)['length'] = 4.5),
    'vessels,2,length',
  ],
  ['listVessels', 'null for a text', (_, json) => void (at(json, 'vessels', 5)['name'] = null), 'vessels,5,name'],
  ['listVessels', 'a list as the whole body', (answer) => ({ ...answer, json: [] }), ''],
  ['listVessels', 'a status that is not described', (answer) => ({ ...answer, status: 206 })],
  ['listVessels', 'another media type', (answer) => as(answer, 'text/html')],
  ['listArrivals', 'a total as text', (_, json) => void Object.assign(json, { total: '6' }), 'total'],
  ['listArrivals', 'no next page', (_, json) => void delete json['next_page'], ''],
  [
    'listArrivals',
    'a next page of another type',
    (_, json) => void Object.assign(json, { next_page: 'p2' }),
    'next_page',
  ],
  ['listArrivals', 'a day that is none', (_, json) => void Object.assign(json, { day: '23.5.2026' }), 'day'],
  [
    'listArrivals',
    'a state that is none of the choices',
    (_, json) => void (at(json, 'arrivals', 0)['state'] = 'due'),
    'arrivals,0,state',
  ],
  ['listArrivals', 'an id of another form', (_, json) => void (at(json, 'arrivals', 1)['id'] = '301'), 'arrivals,1,id'],
  [
    'listArrivals',
    'a berth that is left out in place of null',
    (_, json) => void delete at(json, 'arrivals', 2)['berth'],
    'arrivals,2',
  ],
  [
    'listBerths',
    'a quay that is none of the choices',
    (_, json) => void (at(json, 'berths', 0)['quay'] = 'E'),
    'berths,0,quay',
  ],
  ['listBerths', 'a depth as text', (_, json) => void (at(json, 'berths', 1)['depth'] = '7 m'), 'berths,1,depth'],
  ['getBerth', 'no ETag', (answer) => without(answer, 'etag')],
  [
    'getBerth',
    'a number for the vessel that lies there',
    (_, json) => void Object.assign(json, { taken_by: 204 }),
    'taken_by',
  ],
  ['createBerth', 'no Location', (answer) => without(answer, 'location')],
  ['createBerth', '200 in place of 201', (answer) => ({ ...answer, status: 200 })],
  ['createBerth', 'no id', (_, json) => void delete json['id'], ''],
  ['getTides', 'a height as number', (_, json) => void (at(json, 'tides', 0)['height'] = 1.9), 'tides,0,height'],
  [
    'getTides',
    'a height of another form',
    (_, json) => void (at(json, 'tides', 1)['height'] = '1,90'),
    'tides,1,height',
  ],
  ['getTides', 'a time as text', (_, json) => void (at(json, 'tides', 2)['at'] = '06:10'), 'tides,2,at'],
  ['getWeather', 'a sky that is none of the choices', (_, json) => void Object.assign(json, { sky: 'foggy' }), 'sky'],
  ['getVessel', 'an error without its detail', (_, json) => void delete json['detail'], ''],
];

const judge = (id: string, answer: JudgedResponse) =>
  departuresOf(contract, contract.description.operation(id)!, answer);

test('what the harbour answers is as it is described', async () => {
  for (const [id, answer] of await answers()) expect([id, judge(id, answer)]).toEqual([id, []]);
});

test('of thirty ways to depart each is found, at its place, and none too many', async () => {
  expect(WAYS).toHaveLength(30);
  const good = await answers();
  for (const [id, what, change, place] of WAYS) {
    const answer = structuredClone(good.get(id)!);
    const found = judge(id, change(answer, answer.json as never) ?? answer);
    expect([what, found.map(({ keys }) => keys?.join())]).toEqual([what, [place]]);
    expect(contract.placeText(found[0]!.at)).toMatch(/^openapi\/\w+\.yaml:\d+$/);
  }
});
