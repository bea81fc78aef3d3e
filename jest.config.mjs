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
    '<rootDir>/evaluation',
    '<rootDir>/tests',
  ],
  testPathIgnorePatterns: ['/node_modules/', '/tests/e2e/'],
  moduleNameMapper: { '^~/(.*)$': '<rootDir>/app/$1' },
  // Timed limits live in the bench; this one only ends what hangs.
  testTimeout: 120_000,
  transform: { '^.+\\.(t|j|mj)sx?$': '<rootDir>/jest.transform.mjs' },
  transformIgnorePatterns: ['/node_modules/(?!(fast-png|iobuffer|flatbush|flatqueue)/)'],
}
