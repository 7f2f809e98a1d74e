/** @type {import('jest').Config} */
export default {
  testEnvironment: 'node',
  // Property tests take seconds where the machine is busy; speed is shown by the bench, not here.
  testTimeout: 120_000,
  // All cores: the process that hands the files out has little to do itself.
  maxWorkers: '100%',
  roots: ['<rootDir>/src', '<rootDir>/bench', '<rootDir>/demo', '<rootDir>/torture'],
  testMatch: ['**/*.test.ts'],
  modulePathIgnorePatterns: ['<rootDir>/.next/'],
  moduleNameMapper: { '^@/(.*)$': '<rootDir>/src/$1' },
  // Shipped as ES modules only.
  transformIgnorePatterns: ['node_modules/(?!@noble/|temporal-)'],
  transform: {
    '^.+\\.(tsx?|js)$': [
      '@swc/jest',
      { jsc: { target: 'es2022', parser: { syntax: 'typescript' } }, module: { type: 'commonjs' } },
    ],
  },
};
