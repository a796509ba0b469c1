import { projectProblems, told } from '../support/chains.ts';

const api = (...lines: readonly string[]): string =>
  ['apis:', '  harbour:', ...lines.map((line) => `    ${line}`), ''].join('\n');

describe('project files', () => {
  const rows: readonly (readonly [name: string, text: string, found: readonly string[], advice?: string])[] = [
    ['one url', api('url: http://127.0.0.1:1/v1'), []],
    [
      'a setting in the host',
      api('url: https://{setting.account}.harbour.example/v1', 'settings: { account: north }'),
      [],
    ],
    ['no apis', 'quay: x\n', ['key-missing 1:1', 'unknown-key 1:1']],
    [
      'a zone that there is not',
      `zone: Europe/Lisbn\n${api('url: http://a.example')}`,
      ['unknown-zone 1:7'],
      'Europe/Lisbon',
    ],
    ['neither url nor deployments', api('about: x'), ['key-missing 2:3'], 'url,'],
    ['both', api('url: http://a.example', 'deployments: { live: { url: http://b.example } }'), ['keys-clash 2:3']],
    ['a deployment without url', api('deployments: { live: {} }'), ['key-missing 3:20']],
    [
      'auth above deployments',
      api('auth: { bearer: x }', 'deployments: { live: { url: http://b.example } }'),
      ['keys-clash 2:3'],
    ],
    [
      'default-deployment of nothing',
      api('deployments: { live: { url: http://b.example } }', 'default-deployment: liv'),
      ['unknown-deployment 4:25'],
      'live',
    ],
    ['a url with a query', api('url: http://a.example/?x=1'), ['invalid-target 3:10'], 'under query'],
    ['a url with a slash at its end', api('url: http://a.example/v1/'), ['invalid-target 3:10']],
    ['no url at all', api('url: harbour'), ['invalid-target 3:10']],
    [
      'a name in a project file',
      api('url: http://a.example', 'headers: { X-A: "{day}" }'),
      ['unknown-name 4:23'],
      'secret.NAME',
    ],
    [
      'a setting that is missing',
      api('url: http://a.example', 'headers: { X-A: "{setting.pier}" }', 'settings: { peir: 1 }'),
      ['setting-missing 4:23'],
      'peir',
    ],
    ['an unknown scheme', api('url: http://a.example', 'auth: { token: x }'), ['unknown-key 4:13'], 'bearer'],
    ['an unknown key by meaning', api('base-url: http://a.example'), ['key-missing 2:3', 'unknown-key 3:5']],
  ];
  test.each(rows.map((row) => [row[0], row] as const))('%s', (_name, [, text, found, advice = '']) => {
    const diagnostics = projectProblems(text);
    expect(told(diagnostics)).toEqual(found);
    expect(diagnostics.map((each) => each.advice).join()).toContain(advice);
  });
});
