/**
 * Every code that a message can carry: stable words in kebab-case, one for each fix that a user would make.
 * `level` is what the code is unless said otherwise; `title` says in a few words what it means.
 */
export const catalogue = {
  // Text of the file
  'not-yaml': { level: 'error', title: 'the file is not YAML' },
  'tab-indented': { level: 'error', title: 'tabs in indentation' },
  'not-utf8': { level: 'error', title: 'the file is not UTF-8' },
  'file-too-big': { level: 'error', title: 'a file that is too big or too deep' },
  'key-twice': { level: 'error', title: 'the same key twice' },
  'unknown-key': { level: 'error', title: 'a key that is not known here' },
  'key-missing': { level: 'error', title: 'a key that must be there' },
  'date-unquoted': { level: 'error', title: 'a date or time of day in an expression' },
  'number-rewritten': { level: 'error', title: 'a number that YAML would change' },
  'yaml-not-allowed': { level: 'error', title: 'a part of YAML that is not used here' },
  'wrong-kind': { level: 'error', title: 'the wrong kind of value for a key' },
  'does-not-parse': { level: 'error', title: 'an expression that does not parse' },
  'bad-hole': { level: 'error', title: 'a hole that does not parse or close' },
  'hole-in-key': { level: 'error', title: 'a hole in a key' },
  'sent-as-words': { level: 'warning', title: 'a text that looks like a path or a name' },
  'braces-in-expression': { level: 'warning', title: 'braces where an expression stands' },
  'minus-touches-name': { level: 'error', title: 'a minus that touches a name' },
  'doubled-brace': { level: 'error', title: 'a literal brace in a target' },
  'reserved-sign': { level: 'error', title: 'a reserved operator in a target' },
  'parameter-unnamed': { level: 'error', title: 'a parameter that would have no name' },
  'no-method': { level: 'error', title: 'a request line without a method' },
  'blank-in-target': { level: 'error', title: 'a blank in a target' },
  'bad-target': { level: 'error', title: 'a target that cannot be a URL' },
  'bad-measure': { level: 'error', title: 'a bad duration or size' },
  'two-bodies': { level: 'error', title: 'several bodies for one request' },
  'keys-clash': { level: 'error', title: 'keys that do not go together' },
  // Names
  'unknown-name': { level: 'error', title: 'a name that nothing binds' },
  'bare-word': { level: 'error', title: 'a bare word meant as text' },
  'used-too-early': { level: 'error', title: 'a name used before it is kept' },
  'kept-twice': { level: 'error', title: 'a name bound twice' },
  'reserved-name': { level: 'error', title: 'a name that has a meaning of its own' },
  'bad-name': { level: 'error', title: 'a name with characters that names do not have' },
  'shadows-response': { level: 'warning', title: 'a name equal to a short name of the response' },
  'no-response-here': { level: 'error', title: 'a response name where there is no response' },
  'setting-missing': { level: 'error', title: 'a setting that a deployment lacks' },
  'unknown-api': { level: 'error', title: 'an api that the project does not have' },
  'unknown-deployment': { level: 'error', title: 'a deployment that the api does not have' },
  'api-not-said': { level: 'error', title: 'several apis and none said' },
  'unknown-function': { level: 'error', title: 'a function that does not exist' },
  'call-name-twice': { level: 'error', title: 'two calls of one name' },
  'file-not-found': { level: 'error', title: 'a file that is not there' },
  'no-project': { level: 'error', title: 'no batharon.yaml here' },
  'call-not-found': { level: 'error', title: 'a call that the record does not hold' },
  'run-not-found': { level: 'error', title: 'a run that is not recorded' },
  // Meaning
  'wrong-argument': { level: 'error', title: 'wrong number or kind of arguments' },
  'not-a-condition': { level: 'error', title: 'a value where a condition stands' },
  'always-same': { level: 'error', title: 'a condition that never changes' },
  'many-compared': { level: 'error', title: 'a many-valued path compared inside a filter' },
  'count-of-one': { level: 'error', title: 'count() of a path to one value' },
  'chained-comparison': { level: 'error', title: 'comparisons in a chain' },
  'bang-before-comparison': { level: 'error', title: '! before a comparison' },
  'body-unexpected': { level: 'warning', title: 'a body on a method that has none' },
  'header-not-yours': { level: 'error', title: 'a header that cannot be set' },
  'parameter-twice': { level: 'error', title: 'a parameter both in target and query' },
  'bad-pattern': { level: 'error', title: 'a pattern that does not parse' },
  // Surroundings
  'input-missing': { level: 'error', title: 'inputs that were not given' },
  'unknown-input': { level: 'error', title: 'an input that the chain does not take' },
  'input-wrong': { level: 'error', title: 'an input of the wrong type' },
  'secret-missing': { level: 'error', title: 'secrets that were not found' },
  'not-a-secret': { level: 'error', title: 'a value that cannot be a secret' },
  'secret-too-short': { level: 'warning', title: 'a secret too short to be masked inside text' },
  'secrets-readable': { level: 'warning', title: 'secrets.env can be read by others' },
  'not-writable': { level: 'error', title: 'a file or folder that cannot be written or read' },
  'bad-option': { level: 'error', title: 'a command line that makes no sense' },
  // While running
  'found-nothing': { level: 'error', title: 'a path found nothing where a value is needed' },
  'not-held': { level: 'error', title: 'an expectation is false' },
  'nothing-to-check': { level: 'warning', title: 'an all() of an empty list' },
  'unexpected-status': { level: 'error', title: 'a status that was not expected' },
  'bad-value': { level: 'error', title: 'a value that does not fit its place in a request' },
  'no-connection': { level: 'error', title: 'lookup, connection or TLS failed' },
  'timed-out': { level: 'error', title: 'a time-out was hit' },
  'not-decodable': { level: 'error', title: 'a body that cannot be read as its type' },
  'unknown-charset': { level: 'error', title: 'a charset that is not known' },
  'body-too-big': { level: 'error', title: 'a body over max-body' },
  'over-limit': { level: 'error', title: 'a limit was reached' },
} as const satisfies Readonly<Record<string, Readonly<{ level: 'error' | 'warning'; title: string }>>>;

export type Code = keyof typeof catalogue;
export type Level = 'error' | 'warning';

export function levelOf(code: Code): Level {
  return catalogue[code].level;
}
