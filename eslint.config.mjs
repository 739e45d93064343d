import next from 'eslint-config-next'
import typescript from 'eslint-config-next/typescript'

const platform = [
  'react',
  'react-*',
  'next',
  'next/*',
  '@electric-sql/*',
  'aedes',
  'mqtt',
  'node:*',
  'fs',
  'path',
  '@/app/*',
  '@/ui/*',
  '@/server/*',
  '@/workers/*',
  '**/app/**',
  '**/ui/**',
  '**/server/**',
  '**/workers/**',
]

const config = [
  { ignores: ['.next/**', 'build/**', 'data/**', 'node_modules/**', 'next-env.d.ts'] },
  ...next,
  ...typescript,
  {
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/no-explicit-any': 'error',
    },
  },
  {
    files: ['**/*.ts', '**/*.tsx'],
    ignores: ['**/*.d.ts'],
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    rules: {
      '@typescript-eslint/no-floating-promises': 'error',
      '@typescript-eslint/switch-exhaustiveness-check': ['error', { considerDefaultExhaustiveForUnions: true }],
    },
  },
  {
    files: ['src/**/*.ts', 'src/**/*.tsx', 'standins/**/*.ts', 'scripts/**/*.ts'],
    ignores: ['**/*.d.ts'],
    rules: {
      'no-nested-ternary': 'error',
      complexity: ['error', 20],
      'max-params': ['error', 5],
      '@typescript-eslint/no-unnecessary-condition': 'error',
    },
  },
  {
    // Inner loops over typed arrays: each `?? 0` of an index counts as a branch.
    files: ['src/core/pins/lsap.ts', 'src/core/pins/solve.ts'],
    rules: { complexity: 'off' },
  },
  {
    files: ['src/core/**/*.ts'],
    rules: {
      'no-restricted-imports': [
        'error',
        { patterns: [{ group: platform, message: 'The core computes; it knows no interface, server or platform.' }] },
      ],
      'no-restricted-globals': ['error', 'window', 'document', 'fetch', 'process', 'performance', 'setTimeout'],
      'no-restricted-properties': [
        'error',
        { object: 'Math', property: 'random' },
        { object: 'Date', property: 'now' },
      ],
    },
  },
]
export default config
