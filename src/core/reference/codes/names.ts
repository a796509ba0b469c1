import type { CodePages } from './definition.ts';

/** Mistakes with names. */
export const nameCodes: CodePages = {
  'unknown-name': {
    about:
      'An expression reads a name that no input, no step before and no key of its place binds. The nearest name is offered.',
    example: { steps: '- let: { vessel: 1 }\n- say: "{vesel} {vessel}"' },
  },
  'bare-word': {
    about: 'A single word in an expression is a name. A text has quotes of its own inside those of YAML: "\'hello\'".',
    example: { steps: '- let: { greeting: hello }\n- say: "{greeting}"' },
  },
  'used-too-early': {
    about:
      'A name is read before the step that keeps it. Within one call, expect and the request do not see what the call itself keeps.',
    example: { steps: '- say: "{job}"\n- call: ask\n  request: POST /jobs\n  keep: { job: $.id }' },
  },
  'duplicate-name': {
    about: 'A name is bound once in its scope, so that everybody who reads it knows which value is meant.',
    example: { steps: '- let: { a: 1 }\n- let: { a: 2 }\n- say: "{a}"' },
  },
  'hides-name': {
    about:
      'A name inside a loop may not be one that is there outside of it: nobody could tell which of the two is meant.',
    example: { steps: "- let: { a: 1 }\n- each: n in range(3)\n  steps:\n    - let: { a: n }\n    - say: '{a}'" },
  },
  'reserved-name': {
    about: 'Some names have a meaning of their own (secret, setting, response, run, loop ...) and cannot be bound.',
    example: { steps: '- let: { loop: 1 }' },
  },
  'invalid-name': {
    about:
      'Names have letters, digits and _, and begin with no digit: a hyphen would be a subtraction where the name is used.',
    example: { steps: '- let: { job-id: 1 }' },
  },
  'shadows-response': {
    about:
      'In expect and keep the short names (status, size, url ...) mean the response. A name of your own that is equal to one is readable everywhere else only; a name that says whose it is reads better.',
    example: { steps: '- let: { status: 1 }\n- say: "{status}"' },
  },
  'maybe-missing': {
    about:
      'A name may have no value at this place, because the step that binds it may not run or the input may be left out. Say what stands for it then (??), or run the step only when it is there (when: exists(name)).',
    example: {
      chain:
        'inputs: { flag: { type: string, optional: true } }\nsteps:\n  - let: { upper_flag: upper(flag) }\n  - say: "{upper_flag}"\n',
    },
  },
  'no-response-here': {
    about:
      'The response of a call can be read in its own expect and keep. To use a value of it later, keep it under a name.',
    example: { steps: '- let: { x: $.id }\n- say: "{x}"' },
  },
  'only-at-the-end': {
    about: 'run.id, run.outcome and run.failed are known when the steps are over; they are read under gives.',
    example: { steps: '- say: "{run.outcome}"' },
  },
  'setting-missing': {
    about:
      'A chain reads a setting that not every deployment of the api has, so it would work at one and fail at another.',
    example: { steps: '- call: pier\n  request: GET /piers/{setting.pier}' },
  },
  'unknown-api': {
    about: 'The project file has no api of this name.',
    example: { chain: 'api: harbor\nsteps:\n  - call: list\n    request: GET /list\n' },
  },
  'unknown-deployment': {
    about:
      'The api has no deployment of this name, or several and none is chosen: add default-deployment: to it, or choose with --at.',
    example: { command: 'run chains/berth.chain.yaml --at live2' },
  },
  'api-not-specified': {
    about: 'The project has several apis, or none, and neither the chain nor the call says which is meant.',
    example: { chain: 'steps:\n  - call: list\n    request: GET /list\n' },
  },
  'unknown-function': {
    about: 'There is no function of this name. Names from elsewhere are answered with the one that does the same here.',
    example: { steps: '- let:\n    n: size([1, 2])\n- say: "{n}"' },
  },
  'duplicate-call': {
    about: 'Calls are known by their names in records, reports and when a run is resumed, so each has its own.',
    example: { steps: '- call: list\n  request: GET /list\n- call: list\n  request: GET /list2' },
  },
  'never-used': {
    about:
      'A value is kept and nobody reads it. Often the name was written differently where it is used, or an expectation is missing.',
    example: { steps: '- let: { a: 1 }' },
  },
  'file-not-found': {
    about:
      'A file is not where the chain or the command line says. Paths in a file are relative to that file, paths on the command line to where you stand.',
    example: { steps: '- call: list\n  request: GET /list\n  expect:\n    - schema: list.schema.json' },
  },
  'no-project': {
    about: 'The command needs a project: a folder with a batharon.yaml, here or above.',
    example: { command: '@outside check' },
  },
  'call-not-found': {
    about: 'The record has no exchange of this call. Without a name the last one is shown.',
    example: { command: '@recorded look quay' },
  },
  'run-not-found': {
    about: 'Nothing is recorded under this id, or nothing is recorded yet.',
    example: { command: 'look --run nope' },
  },
  'kept-in-loop': {
    about:
      'What is kept inside a loop is there once for each item, and gone behind the loop. gather: makes a list of it, in the order of the items.',
    example: {
      steps:
        "- each: n in range(3)\n  steps:\n    - call: a\n      request: GET /a/{n}\n      keep: { job: $.id }\n- say: 'job {job}'",
    },
  },
  'never-carried': {
    about:
      'carry: gives a name its first value, and no step of the rounds gives it another. Keep or compute it in the rounds, or let it stand before them.',
    example: {
      steps:
        "- repeat: look\n  carry: { cursor: null }\n  steps:\n    - call: a\n      request: GET /a\n      keep: { state: $.state }\n  until: state == 'done'",
    },
  },
  'secret-remembered': {
    about: 'What is remembered stands in a file until the next run, and a secret stands in none.',
    example: { steps: '- remember: { token: secret.TOKEN }' },
  },
  'remember-in-loop': {
    about: 'A name is remembered once in a run. Gather what a loop gives, and remember it behind the loop.',
    example: { steps: '- each: n in range(3)\n  steps:\n    - remember: { last: n }' },
  },
};
