export default {
  testEnvironment: 'node',
  testMatch: ['<rootDir>/test/**/*.test.ts'],
  transform: {
    '^.+\\.[mc]?[tj]sx?$': [
      '@swc/jest',
      { jsc: { target: 'es2022', parser: { syntax: 'typescript' } }, module: { type: 'commonjs' } },
    ],
  },
  transformIgnorePatterns: [
    '/node_modules/(?!(string-width|strip-ansi|ansi-regex|get-east-asian-width|json-p3|oauth4webapi|preact|preact-render-to-string|d3-[a-z-]+|internmap)/)',
  ],
  testTimeout: 60_000,
  maxWorkers: '100%',
};
