import type { Page, PageGroup } from './page.ts';

type NameEntry = Readonly<{ name: string; type: string; where: string; about: string; example: string }>;

const IN_RESPONSE = 'expect, keep, poll, paging and until-event of a call; expect, keep and until of receive';
const IN_CALL = 'expect, keep, poll, paging and until-event of a call';

/** Names that expressions can read without binding them. */
const NAMES: Readonly<Record<string, readonly NameEntry[]>> = {
  'The response': [
    {
      name: '$',
      type: 'any',
      where: IN_RESPONSE,
      about:
        'The decoded body: JSON, the rows of CSV, the events of a stream, or text. $ in a filter is the same body.',
      example: '$.arrivals[0].id',
    },
    { name: 'status', type: 'number', where: IN_CALL, about: 'The status code.', example: 'status == 200' },
    {
      name: 'headers',
      type: 'object',
      where: IN_RESPONSE,
      about: 'The header fields by name; case does not matter, and _ stands for -.',
      example: "headers.content_type == 'application/json'",
    },
    {
      name: 'cookies',
      type: 'object',
      where: IN_CALL,
      about: 'The cookies that the response sets, by name.',
      example: 'exists(cookies.session)',
    },
    {
      name: 'url',
      type: 'string',
      where: IN_RESPONSE,
      about: 'The URL that answered, after redirects.',
      example: "ends_with(url, '/berths/N1')",
    },
    {
      name: 'took',
      type: 'duration',
      where: IN_CALL,
      about: 'The time from sending the request to the end of the response.',
      example: 'took < 800ms',
    },
    {
      name: 'size',
      type: 'number',
      where: IN_CALL,
      about: 'The size of the body in bytes, after decompression.',
      example: 'size < 64KiB',
    },
    {
      name: 'raw',
      type: 'bytes',
      where: IN_RESPONSE,
      about: 'The exact bytes of the body, after decompression.',
      example: "sha256(raw) == '0f34'",
    },
    {
      name: 'tries',
      type: 'number',
      where: IN_CALL,
      about: 'The number of attempts that the call needed.',
      example: 'tries == 1',
    },
    {
      name: 'polls',
      type: 'number',
      where: 'expect and keep of a call with poll',
      about: 'The number of polls so far.',
      example: 'polls < 10',
    },
    {
      name: 'page_count',
      type: 'number',
      where: 'paging, expect and keep of a call with paging',
      about: 'The number of pages read so far.',
      example: 'page_count <= 5',
    },
    {
      name: 'items',
      type: 'array',
      where: 'expect and keep of a call with paging and items',
      about: 'The array over all pages.',
      example: 'length(items) >= 1',
    },
    {
      name: 'response',
      type: 'object',
      where: IN_RESPONSE,
      about:
        'All of these as members: response.status, response.headers and so on. It is not hidden by a name of the chain.',
      example: 'response.status == 200',
    },
  ],
  'A received request': [
    {
      name: 'method',
      type: 'string',
      where: 'until, expect and keep of receive',
      about: 'The method of the received request.',
      example: "method == 'POST'",
    },
    {
      name: 'query',
      type: 'object',
      where: 'until, expect and keep of receive',
      about: 'The query parameters of the received request; each is its first value.',
      example: "query.state == 'moored'",
    },
  ],
  'A request to be signed': [
    {
      name: 'request.method',
      type: 'string',
      where: 'attach without chain',
      about: 'The method of the request.',
      example: "request.method + ' ' + request.path",
    },
    {
      name: 'request.path',
      type: 'string',
      where: 'attach without chain',
      about: 'The path exactly as it is sent.',
      example: "request.method + ' ' + request.path",
    },
    {
      name: 'request.query',
      type: 'string',
      where: 'attach without chain',
      about: 'The query exactly as it is sent, without the question mark.',
      example: 'sha256(request.query)',
    },
    {
      name: 'request.body',
      type: 'bytes',
      where: 'attach without chain',
      about: 'The bytes of the body; empty without one.',
      example: 'sha256(request.body)',
    },
    {
      name: 'request.time',
      type: 'date-time',
      where: 'attach without chain',
      about: "The time of sending, by the run's clock; the same in all placeholders of the request.",
      example: 'epoch(request.time)',
    },
  ],
  Surroundings: [
    {
      name: '@',
      type: 'any',
      where: 'filters, and functions such as all, any, filtered and mapped',
      about: 'The current item.',
      example: "$.arrivals[?@.state == 'moored']",
    },
    {
      name: 'secret',
      type: 'object',
      where: 'everywhere',
      about: 'Secrets by name, from the environment or secrets.env; always masked.',
      example: 'secret.HARBOUR_TOKEN',
    },
    {
      name: 'setting',
      type: 'object',
      where: 'everywhere',
      about: 'The settings of the API and its deployment, by name.',
      example: 'setting.pier',
    },
    {
      name: 'remembered',
      type: 'object',
      where: 'everywhere in a chain',
      about: 'What the last run of this chain remembered, by name; nothing before the first.',
      example: "remembered.cursor ?? 'first'",
    },
    {
      name: 'outputs',
      type: 'object',
      where: 'keep of a chain step; attach with chain',
      about: 'The outputs of the other chain, by name.',
      example: 'outputs.berth',
    },
    {
      name: 'loop.number',
      type: 'number',
      where: 'inside each and repeat',
      about: 'The number of the item or round, from 1. There is no index; write loop.number - 1.',
      example: 'loop.number == 1',
    },
    {
      name: 'run.id',
      type: 'string',
      where: 'cleanup and outputs',
      about: 'The id of the run.',
      example: "'run ' + run.id",
    },
    {
      name: 'run.outcome',
      type: 'string',
      where: 'cleanup and outputs',
      about: "'passed' or 'failed', as far as it is known.",
      example: "run.outcome == 'failed'",
    },
    {
      name: 'run.failed',
      type: 'array',
      where: 'cleanup and outputs',
      about: 'What failed so far: objects with address, step, item, code, reason and status.',
      example: 'mapped(run.failed, @.step)',
    },
  ],
};

/** What a name means that nobody binds, in a sentence: `loop.number` by its whole name. */
export function nameAbout(name: string): string | undefined {
  return Object.values(NAMES)
    .flat()
    .find((entry) => entry.name === name)?.about;
}

/** The members of such a name: `number` of `loop`. */
export function namesBelow(name: string): readonly string[] {
  const members = Object.values(NAMES)
    .flat()
    .filter((entry) => entry.name.startsWith(`${name}.`));
  return name === 'response'
    ? Object.values(NAMES)[0]!
        .map((entry) => entry.name)
        .filter((each) => /^[a-z]/.test(each) && each !== name)
    : members.map((entry) => entry.name.slice(name.length + 1));
}

/** A page for each name. */
export function nameGroups(): readonly PageGroup[] {
  return Object.entries(NAMES).map(([heading, names]) => ({
    heading,
    pages: names.map(({ name, type, where, about, example }): Page => ({
      name,
      kind: 'name',
      heading: name,
      paragraphs: [about],
      rows: [
        { label: 'type', text: type },
        { label: 'where', text: where },
      ],
      example,
    })),
  }));
}
