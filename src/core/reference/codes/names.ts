import type { CodePages } from './definition.ts';

/** Mistakes with names. */
export const nameCodes: CodePages = {
  'unknown-name': {
    about:
      'An expression reads a name that no input, no earlier step and no key of its place binds. The nearest name is suggested.',
    example: { steps: '- let: { vessel: 1 }\n- say: "{vesel} {vessel}"' },
  },
  'bare-word': {
    about:
      'A single word in an expression is a name. A string needs quotes of its own inside those of YAML: "\'hello\'".',
    example: { steps: '- let: { greeting: hello }\n- say: "{greeting}"' },
  },
  'used-too-early': {
    about:
      'A name is read before the step that keeps it. Within one call, expect and the request cannot read what the call itself keeps.',
    example: { steps: '- say: "{job}"\n- call: ask\n  request: POST /jobs\n  keep: { job: $.id }' },
  },
  'duplicate-name': {
    about: 'A name is bound once in its scope, so that it always means the same value.',
    example: { steps: '- let: { a: 1 }\n- let: { a: 2 }\n- say: "{a}"' },
  },
  'hides-name': {
    about: 'A name inside a loop cannot be the same as one outside it, since both can be read there.',
    example: { steps: "- let: { a: 1 }\n- each: n in range(3)\n  steps:\n    - let: { a: n }\n    - say: '{a}'" },
  },
  'reserved-name': {
    about: 'Some names are reserved (secret, setting, response, run, loop ...) and cannot be bound.',
    example: { steps: '- let: { loop: 1 }' },
  },
  'invalid-name': {
    about:
      'Names consist of letters, digits and _, and do not begin with a digit: a hyphen would be a subtraction where the name is used.',
    example: { steps: '- let: { job-id: 1 }' },
  },
  'shadows-response': {
    about:
      'In expect and keep the short names (status, size, url ...) mean the response. A name of the chain that is the same can be read only elsewhere; a more specific name is clearer.',
    example: { steps: '- let: { status: 1 }\n- say: "{status}"' },
  },
  'maybe-missing': {
    about:
      'A name may have no value here, because the step that binds it may not run, or because the input is optional. Add a value for that case (??), or run the step only when the name has a value (when: exists(name)).',
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
    about: 'run.id, run.outcome and run.failed are known at the end; they can be read in cleanup and outputs.',
    example: { steps: '- say: "{run.outcome}"' },
  },
  'setting-missing': {
    about:
      'A chain reads a setting that some deployments of the API lack, so it would work at one and fail at another.',
    example: { steps: '- call: pier\n  request: GET /piers/{setting.pier}' },
  },
  'unknown-api': {
    about: 'The project file has no API with this name.',
    example: { chain: 'api: harbor\nsteps:\n  - call: list\n    request: GET /list\n' },
  },
  'unknown-deployment': {
    about: 'The API has no deployment with this name.',
    example: { command: 'run chains/berth.chain.yaml --at live2' },
  },
  'deployment-not-chosen': {
    about:
      'The chain calls an API with deployments of which none is chosen: add default-deployment to it, or choose with --at. Nothing is sent or recorded.',
    example: { command: '@unchosen run chains/berth.chain.yaml' },
  },
  'api-not-specified': {
    about: 'The project has several APIs, or none, and neither the chain nor the call specifies one.',
    example: { chain: 'steps:\n  - call: list\n    request: GET /list\n' },
  },
  'unknown-function': {
    about:
      'There is no function with this name. For names that are common elsewhere, the function that does the same here is suggested.',
    example: { steps: '- let:\n    n: size([1, 2])\n- say: "{n}"' },
  },
  'duplicate-call': {
    about: 'Calls are identified by their names in records, in reports and when a run resumes, so each needs its own.',
    example: { steps: '- call: list\n  request: GET /list\n- call: list\n  request: GET /list2' },
  },
  'never-used': {
    about:
      'A value is kept and never read. Often the name is spelled differently where it is used, or an expectation is missing.',
    example: { steps: '- let: { a: 1 }' },
  },
  'file-not-found': {
    about:
      'A file does not exist where the chain or the command line says. Paths in a file are relative to that file, paths on the command line to the current folder.',
    example: { steps: '- call: list\n  request: GET /list\n  expect:\n    - schema: list.schema.json' },
  },
  'no-project': {
    about: 'The command needs a project: a folder with a batharon.yaml, the current one or a parent.',
    example: { command: '@outside check' },
  },
  'call-not-found': {
    about: 'The record has no exchange of this call. Without a name the last exchange is shown.',
    example: { command: '@recorded look quay' },
  },
  'run-not-found': {
    about: 'No run with this id is recorded, or nothing is recorded yet.',
    example: { command: 'look --run nope' },
  },
  'kept-in-loop': {
    about:
      'A name that is kept inside a loop has a value for each item, and none after the loop. gather makes an array of the values, in the order of the items.',
    example: {
      steps:
        "- each: n in range(3)\n  steps:\n    - call: a\n      request: GET /a/{n}\n      keep: { job: $.id }\n- say: 'job {job}'",
    },
  },
  'never-carried': {
    about:
      'carry gives a name its first value, and no step of the rounds gives it another. Keep or compute it in the rounds, or define it before them.',
    example: {
      steps:
        "- repeat: look\n  carry: { cursor: null }\n  steps:\n    - call: a\n      request: GET /a\n      keep: { state: $.state }\n  until: state == 'done'",
    },
  },
  'secret-remembered': {
    about: 'Remembered values are kept in a file until the next run, and secrets are never written to files.',
    example: { steps: '- remember: { token: secret.TOKEN }' },
  },
  'remember-in-loop': {
    about: 'A name is remembered once in a run. Gather the values of a loop, and remember the array after it.',
    example: { steps: '- each: n in range(3)\n  steps:\n    - remember: { last: n }' },
  },
};
