/** @type {import('jest').Config} */
export default {
  testEnvironment: 'node',
  // Property tests take seconds where the machine is busy; speed is shown by the bench, not here.
  testTimeout: 30_000,
  roots: ['<rootDir>/src', '<rootDir>/bench', '<rootDir>/demo'],
  testMatch: ['**/*.test.ts'],
  modulePathIgnorePatterns: ['<rootDir>/.next/'],
  moduleNameMapper: { '^@/(.*)$': '<rootDir>/src/$1' },
  transform: {
    '^.+\\.tsx?$': [
      '@swc/jest',
      { jsc: { target: 'es2022', parser: { syntax: 'typescript' } }, module: { type: 'commonjs' } },
    ],
  },
};
