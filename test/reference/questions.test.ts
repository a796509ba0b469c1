import { findPages, pagesMentioning } from '../../src/core/reference/find.ts';

/** What somebody new wants to know, the words they look up, at most two, and the page that answers. */
const questions: readonly (readonly [question: string, tries: readonly string[], page: string])[] = [
  ['How do I repeat steps for every item?', ['loop'], 'each'],
  ['How do I run steps for each row of a CSV?', ['foreach', 'csv'], 'each'],
  ['Where do columns get their types?', ['columns'], 'columns'],
  ['How do I run two requests at the same time?', ['parallel'], 'parallel'],
  ['How many items run at once?', ['concurrent', 'concurrency'], 'concurrency'],
  ['How do I retry a failed request?', ['retries'], 'retry'],
  ['Which failures are retried?', ['retry', 'retry.on'], 'retry.on'],
  ['How often is it retried?', ['attempts'], 'retry.tries'],
  ['How do I stay below the rate limit?', ['throttle'], 'rate-limit'],
  ['How do I slow down?', ['rate'], 'rate-limit'],
  ['When does a daily quota start again?', ['quota', 'resets'], 'resets'],
  ['How do I run something at the end in any case?', ['finally'], 'cleanup'],
  ['How do I undo what a call made?', ['rollback'], 'undo'],
  ['How do I use another chain file?', ['import'], 'chain'],
  ['How do I pass arguments to a chain?', ['params'], 'inputs'],
  ['What does a chain return?', ['returns'], 'outputs'],
  ['How do I assert something?', ['assert'], 'expect'],
  ['How do I test the status code?', ['status'], 'status'],
  ['How do I store a value of the response?', ['extract'], 'keep'],
  ['How do I send a JSON body?', ['body'], 'json'],
  ['How do I send form fields?', ['urlencoded'], 'form'],
  ['How do I upload a file?', ['upload'], 'multipart'],
  ['How do I wait two seconds?', ['sleep'], 'wait'],
  ['How do I branch?', ['else'], 'otherwise'],
  ['How do I run a step only sometimes?', ['condition', 'when'], 'when'],
  ['What counts as a condition?', ['condition'], 'conditions'],
  ['How do I continue after a failure?', ['continue-on-error'], 'on-failure'],
  ['How do I use several environments?', ['environment'], 'deployments'],
  ['Where do I put a value that differs by environment?', ['env'], 'settings'],
  ['How do I set the base URL?', ['base-url'], 'url'],
  ['How do I add a header?', ['header'], 'headers'],
  ['How do I add a query parameter?', ['parameters'], 'query'],
  ['How do I leave a parameter out?', ['omit'], 'omitting'],
  ['How do I write a literal brace?', ['literal brace'], 'braces'],
  ['How do I insert a variable?', ['variable'], 'braces'],
  ['What if a value is null?', ['null'], 'null'],
  ['What if a member is missing?', ['missing'], 'null'],
  ['How do I test that something exists?', ['exists'], 'exists'],
  ['What does exit status 3 mean?', ['exit'], 'exit-status'],
  ['How do I get the date of today?', ['dates'], 'dates'],
  ['How do I format a date?', ['strftime'], 'formatted'],
  ['How do I wait for a webhook?', ['webhook'], 'receive'],
  ['How do I get the URL for a callback?', ['callback'], 'listen'],
  ['How do I poll until a job is done?', ['polling'], 'poll'],
  ['How do I stop polling early?', ['poll', 'give-up-when'], 'poll.give-up-when'],
  ['How do I follow pages?', ['pagination'], 'paging'],
  ['How many pages are read?', ['pages', 'max-pages'], 'paging.max-pages'],
  ['How do I use a bearer token?', ['token'], 'auth.bearer'],
  ['How do I use an API key?', ['apikey'], 'auth.api-key'],
  ['Where do secrets go?', ['secrets'], 'masking'],
  ['How do I read an environment variable?', ['environment-variable'], 'masking'],
  ['How do I trust my own certificate authority?', ['certificate', 'ca'], 'tls.ca'],
  ['How long may a request take?', ['deadline'], 'timeout'],
  ['How long may connecting take?', ['timeout', 'timeout.connect'], 'timeout.connect'],
  ['How do I check a response against a schema?', ['json-schema'], 'schema'],
  ['How do I get completion in my editor?', ['editor'], 'editors'],
  ['How do I filter an array?', ['filter'], 'filtered'],
  ['How do I join strings?', ['join'], 'joined'],
  ['How do I count items?', ['len'], 'length'],
  ['How do I get the type of a value?', ['typeof'], 'type_of'],
  ['What is the number of the current item?', ['loop'], 'loop.number'],
  ['How do I write a file?', ['write'], 'write'],
  ['How do I save a download?', ['download'], 'save'],
  ['What failed, at the end?', ['run.failed'], 'run.failed'],
];

test.each(questions)('%s', (_question, tries, page) => {
  expect(tries.length).toBeLessThanOrEqual(2);
  expect(tries.flatMap((word) => findPages(word).map(({ name }) => name))).toContain(page);
});

test('a word without a page of its own leads to the pages that mention it', () => {
  expect(pagesMentioning('filename').map(({ name }) => name)).toContain('multipart');
  expect(pagesMentioning('xyzzy')).toEqual([]);
});

test('there are sixty questions', () => expect(questions.length).toBeGreaterThanOrEqual(60));
