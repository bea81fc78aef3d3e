import js from '@eslint/js'
import confusingGlobals from 'confusing-browser-globals'
import reactHooks from 'eslint-plugin-react-hooks'
import tseslint from 'typescript-eslint'

/** Functions whose last bit an engine may choose: core takes its own from kernels/exact. */
const INEXACT = [
  'sin',
  'cos',
  'tan',
  'asin',
  'acos',
  'atan',
  'atan2',
  'exp',
  'expm1',
  'log',
  'log2',
  'log10',
  'log1p',
  'pow',
  'hypot',
  'cbrt',
  'sinh',
  'cosh',
  'tanh',
]

export default tseslint.config(
  {
    ignores: [
      'build/',
      'build-node/',
      '.react-router/',
      '.data/',
      'node_modules/',
      'core/kernels/assembly/',
      'core/kernels/wasm.generated.ts',
      'test-results/',
    ],
  },
  js.configs.recommended,
  ...tseslint.configs.recommendedTypeChecked,
  {
    languageOptions: {
      parserOptions: {
        // One program for all: a language service for each file and folder takes twice as long.
        project: ['tsconfig.json'],
      },
    },
    plugins: { 'react-hooks': reactHooks },
    rules: {
      'react-hooks/rules-of-hooks': 'error',
      'react-hooks/exhaustive-deps': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      // Routes throw responses: that is how the router takes them.
      '@typescript-eslint/only-throw-error': 'off',
      '@typescript-eslint/require-await': 'off',
      '@typescript-eslint/restrict-template-expressions': ['error', { allowNumber: true }],
      // Our objects of functions never use `this`; the classes that do are not taken apart.
      '@typescript-eslint/unbound-method': 'off',
      'no-console': 'error',
      // `length`, `name`, `event`: a forgotten variable would be taken for the window's, and compile.
      'no-restricted-globals': ['error', ...confusingGlobals.filter((name) => name !== 'self')],
    },
  },
  {
    files: ['core/**/*.ts'],
    ignores: ['**/*.test.ts', 'core/kernels/exact.ts'],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector: "BinaryExpression[operator='**']",
          message: 'Its last bit differs between engines: multiply, or take pow from kernels/exact.',
        },
      ],
      'no-restricted-properties': [
        'error',
        ...INEXACT.map((property) => ({
          object: 'Math',
          property,
          message: 'Its last bit differs between engines: take it from kernels/exact.',
        })),
        { object: 'Math', property: 'random', message: 'Seeds come in as arguments.' },
        { object: 'Date', property: 'now', message: 'Times come in as arguments.' },
      ],
    },
  },
  {
    files: ['cli/**', 'demo/**', 'scripts/**', 'evaluation/**', 'tests/e2e/**'],
    rules: { 'no-console': 'off' },
  },
  {
    files: ['**/*.test.ts', 'tests/**', 'evaluation/**'],
    rules: {
      '@typescript-eslint/no-unsafe-assignment': 'off',
      '@typescript-eslint/no-unsafe-member-access': 'off',
      '@typescript-eslint/no-unsafe-call': 'off',
      '@typescript-eslint/no-unsafe-argument': 'off',
      '@typescript-eslint/no-unsafe-return': 'off',
    },
  },
  {
    files: ['**/*.mjs'],
    ...tseslint.configs.disableTypeChecked,
    languageOptions: {
      ...tseslint.configs.disableTypeChecked.languageOptions,
      globals: { process: 'readonly', console: 'readonly', URL: 'readonly', Buffer: 'readonly' },
    },
  },
)
