/** TypeScript as it stands; elements in .tsx alone, where `<T>` is none. */
function compiled({ tsx }) {
  const transform = tsx ? { react: { runtime: 'automatic', importSource: 'preact' } } : {};
  return {
    jsc: { target: 'es2022', parser: { syntax: 'typescript', tsx }, transform },
    module: { type: 'commonjs' },
  };
}

export default {
  testEnvironment: 'node',
  testMatch: ['<rootDir>/test/**/*.test.ts'],
  transform: {
    '^.+\\.tsx$': ['@swc/jest', compiled({ tsx: true })],
    '^.+\\.[mc]?[tj]s$': ['@swc/jest', compiled({ tsx: false })],
  },
  transformIgnorePatterns: [
    '/node_modules/(?!(string-width|strip-ansi|ansi-regex|get-east-asian-width|json-p3|oauth4webapi|preact|preact-render-to-string|d3-[a-z-]+|internmap)/)',
  ],
  testTimeout: 60_000,
  maxWorkers: '100%',
};
