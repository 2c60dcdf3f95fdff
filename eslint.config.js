import eslint from '@eslint/js';
import tseslint from 'typescript-eslint';

const NODE = ['node:*'];

/** Imports only go down the list of `architecture.md`: each package may know these and nothing else of ours. */
const KNOWS = {
  engine: [],
  contract: [],
  server: ['engine', 'contract'],
  cli: ['engine', 'contract'],
  web: ['engine', 'contract'],
};

const boundaries = Object.entries(KNOWS).map(([name, knows]) => ({
  files: [`packages/${name}/src/**/*.ts`],
  rules: {
    'no-restricted-imports': [
      'error',
      {
        patterns: [
          {
            group: [
              '@usual-needle/*',
              ...knows.map((other) => `!@usual-needle/${other}`),
              '@usual-needle/*/*',
              ...(knows.includes('contract') ? ['!@usual-needle/contract/csv'] : []),
              '**/packages/**',
              ...(name === 'engine' || name === 'contract' || name === 'web' ? NODE : []),
            ],
            message: `packages/${name} may only know: ${knows.join(', ') || 'nothing of ours'}.`,
          },
        ],
      },
    ],
  },
}));

export default tseslint.config(
  {
    ignores: ['**/dist/**', '**/dist-spec/**', '**/.angular/**', '**/node_modules/**', 'packages/server/migrations/**'],
  },
  eslint.configs.recommended,
  ...tseslint.configs.recommended,
  {
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/consistent-type-imports': ['error', { fixStyle: 'inline-type-imports' }],
      'no-control-regex': 'off',
      eqeqeq: ['error', 'always', { null: 'ignore' }],
    },
  },
  {
    files: ['**/*.mjs', '**/*.cjs', '**/*.js'],
    languageOptions: {
      globals: {
        process: 'readonly',
        console: 'readonly',
        URL: 'readonly',
        module: 'writable',
        require: 'readonly',
        setTimeout: 'readonly',
        fetch: 'readonly',
        performance: 'readonly',
      },
    },
    rules: { '@typescript-eslint/no-require-imports': 'off' },
  },
  {
    files: ['packages/engine/src/**/*.ts'],
    rules: { 'no-restricted-globals': ['error', 'process', 'window', 'document', 'Buffer', 'navigator', 'fetch'] },
  },
  ...boundaries,
);
