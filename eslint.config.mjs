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
