import tseslint from 'typescript-eslint';

/**
 * The folders of the core in the order in which data flows: each may import those before it and itself, never one
 * behind it. The adapters and the harbour stand beside the core; only the command line knows all of them.
 */
const order = [
  'diagnostics',
  'value',
  'path',
  'expression',
  'template',
  'yaml',
  'pacing',
  'schema',
  'http',
  'contract',
  'chain',
  'journal',
  'masking',
  'engine',
  'picture',
  'report',
  'draft',
  'reference',
  'editor',
];

/** Pairs of folders that describe one thing from two sides, and may import each other's types. */
const mutual = { diagnostics: ['value'], journal: ['masking'], masking: ['journal'] };

/** What a person, a program or an editor sees of the runner. */
const faces = ['**/cli/**', '**/library/**', '**/language-server/**', '**/harbour/**'];

const coreFolders = order.map((folder, i) => {
  const later = order.slice(i + 1).filter((each) => !(mutual[folder] ?? []).includes(each));
  return {
    files: [`src/core/${folder}/**/*.{ts,tsx}`],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          paths: builtins(),
          patterns: [
            ...later.map((each) => ({ group: [`**/${each}/*`], message: `core/${folder} comes before core/${each}.` })),
            {
              group: ['**/adapters/**', '**/runner/**', ...faces],
              message: 'The core knows nothing around it.',
            },
          ],
        },
      ],
    },
  };
});

/** Node's own modules stay out of the core. */
function builtins() {
  const names = [
    'fs',
    'fs/promises',
    'net',
    'http',
    'https',
    'tls',
    'process',
    'child_process',
    'os',
    'path',
    'timers',
    'readline',
    'tty',
    'vm',
    'zlib',
  ];
  return names.flatMap((name) => [name, `node:${name}`]);
}

export default tseslint.config(
  { ignores: ['dist/', 'node_modules/', 'test/fixtures/', 'demo/'] },
  ...tseslint.configs.recommended,
  {
    files: ['**/*.{ts,tsx}'],
    rules: {
      'max-lines': ['error', { max: 400 }],
      'no-console': 'error',
      // A number and a big integer are equal by `==` alone; `compare.ts` is the only place that means it.
      eqeqeq: ['error', 'always'],
      'no-control-regex': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/consistent-type-imports': 'error',
    },
  },
  {
    // A branch more than none is a complexity of one more; a `switch` over kinds counts as one.
    files: ['src/**/*.{ts,tsx}'],
    rules: {
      'max-lines': ['error', { max: 300 }],
      'max-lines-per-function': ['error', { max: 60 }],
      complexity: ['error', { max: 13, variant: 'modified' }],
    },
  },
  ...coreFolders,
  {
    files: ['src/core/**/*.{ts,tsx}'],
    rules: {
      'no-restricted-globals': [
        'error',
        ...[
          'process',
          'console',
          'setTimeout',
          'setInterval',
          'setImmediate',
          'performance',
          'fetch',
          'require',
          'Buffer',
        ].map((name) => ({
          name,
          message: 'The core has no process, clock or network: take it through a port.',
        })),
      ],
      'no-restricted-properties': [
        'error',
        { object: 'Date', property: 'now', message: 'Take the time from the Clock port.' },
        { object: 'Math', property: 'random', message: 'Take randomness through a port.' },
      ],
    },
  },
  {
    files: ['src/adapters/**/*.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        { patterns: [{ group: ['**/runner/**', ...faces], message: 'Adapters serve the core.' }] },
      ],
    },
  },
  {
    files: ['src/runner/**/*.ts'],
    rules: {
      'no-restricted-imports': ['error', { patterns: [{ group: faces, message: 'The runner knows no face of it.' }] }],
    },
  },
  {
    files: ['src/library/**/*.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        { patterns: [{ group: ['**/cli/**', '**/harbour/**'], message: 'The library is a face of its own.' }] },
      ],
    },
  },
  {
    files: ['src/cli/**/*.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        { patterns: [{ group: ['**/library/**'], message: 'The command line is a face of its own.' }] },
      ],
    },
  },
  {
    files: ['src/harbour/**/*.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            {
              group: ['**/cli/**', '**/library/**', '**/runner/**', '**/core/**', '**/adapters/**'],
              message: 'The harbour stands by itself.',
            },
          ],
        },
      ],
    },
  },
  {
    files: [
      'src/cli/**/*.ts',
      'src/runner/**/*.ts',
      'src/library/**/*.ts',
      'src/language-server/**/*.ts',
      'src/core/**/*.ts',
      'src/harbour/**/*.ts',
    ],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector: "MemberExpression[object.name='process'][property.name=/^(stdout|stderr)$/] > .property ~ *",
          message: 'Text leaves through the masked output.',
        },
        {
          selector: "CallExpression[callee.property.name='write'][callee.object.object.name='process']",
          message: 'Text leaves through the masked output.',
        },
      ],
    },
  },
  {
    files: ['**/*.{cjs,cts}'],
    rules: { '@typescript-eslint/no-require-imports': 'off' },
  },
);
