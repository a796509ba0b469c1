/** Examples of expectations, by form: the steps of a chain. */
export const expectationExamples: Readonly<Record<string, readonly string[]>> = {
  'The expectation that': [
    `- call: berth
  request: GET /berths/{berth}
  expect:
    - that: $.depth > 7
      because: larger vessels ground`,
  ],
  'The expectation schema': [
    `- call: job
  request: GET /jobs/{job}
  expect:
    - schema: { required: [id, state] }
      because: other programs read both
- expect:
    - schema: { type: array }
      of: due`,
  ],
  'The expectation includes': [
    `- call: berth
  request: GET /berths/{berth}
  expect:
    - includes: { id: '{berth}' }
      because: it is the berth that was asked for
- expect:
    - includes: [{ state: expected }]
      of: due`,
  ],
  'The expectation equals': [
    `- call: berth
  request: GET /berths/{berth}
  expect:
    - equals: { id: '{berth}', depth: 7 }
      except: [$.taken_by, $.name]
      because: nothing else may change
- expect:
    - equals: '{due}'
      of: filtered(due, @.state == 'expected')`,
  ],
};
