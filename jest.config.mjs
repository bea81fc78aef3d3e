export default {
  testEnvironment: 'node',
  roots: [
    '<rootDir>/core',
    '<rootDir>/workers',
    '<rootDir>/workbench',
    '<rootDir>/app',
    '<rootDir>/server',
    '<rootDir>/cli',
    '<rootDir>/demo',
    '<rootDir>/tests',
  ],
  testPathIgnorePatterns: ['/node_modules/', '/tests/e2e/'],
  moduleNameMapper: { '^~/(.*)$': '<rootDir>/app/$1' },
  transform: {
    '^.+\\.(t|j|mj)sx?$': [
      '@swc/jest',
      {
        jsc: {
          parser: { syntax: 'typescript', tsx: true },
          target: 'es2022',
          transform: { react: { runtime: 'automatic' } },
        },
        module: { type: 'commonjs' },
        sourceMaps: 'inline',
      },
    ],
  },
  transformIgnorePatterns: ['/node_modules/(?!(fast-png|iobuffer)/)'],
}
