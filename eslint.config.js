import eslint from '@eslint/js';
import tseslint from 'typescript-eslint';

const NODE = ['node:*'];

/** Imports only go down the list of `architecture.md`: each package may know these and nothing else of ours. */
const KNOWS = {
  engine: [],
  contract: [],
  formats: ['engine', 'contract'],
  host: ['engine', 'contract'],
  server: ['contract', 'formats', 'host'],
  cli: ['contract', 'formats', 'host'],
  web: ['engine', 'contract', 'formats', 'host'],
};

/** The rest runs in the browser too. */
const RUNS_IN_NODE = ['server', 'cli'];

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
              ...(knows.includes('formats') ? ['!@usual-needle/formats/light', '!@usual-needle/formats/write'] : []),
              '**/packages/**',
              ...(RUNS_IN_NODE.includes(name) ? [] : NODE),
            ],
            message: `packages/${name} may only know: ${knows.join(', ') || 'nothing of ours'}.`,
          },
        ],
      },
    ],
  },
}));

/** Words that say nothing by themselves: who has not read the code cannot know what they stand for. */
const BARE =
  /^(?:Its?|That|Those|These|This|They|Of|As|By|For|From|In|On|To|At|Up|With|Without|After|Before|Between|Beyond|Until|Under|Within|Who|Whose|Whoever|What|Which|One)\b|^So (?:many|long|often|much|soon)\b/;

/** The first sentence of a doc comment has a subject or a verb of its own: `The time between two tries`, not `Between two tries`. */
const docSubject = {
  meta: {
    type: 'suggestion',
    schema: [],
    messages: { bare: 'Say what this is or does: “{{word}} …” has no subject.' },
  },
  create: (context) => ({
    Program() {
      for (const comment of context.sourceCode.getAllComments()) {
        if (comment.type !== 'Block' || !comment.value.startsWith('*')) continue;
        const [word] = BARE.exec(comment.value.replace(/^[*\s]+/, '')) ?? [];
        if (word) context.report({ loc: comment.loc, messageId: 'bare', data: { word } });
      }
    },
  }),
};

export default tseslint.config(
  {
    ignores: [
      '**/dist/**',
      '**/dist-spec/**',
      '**/dist-bundle/**',
      '**/.angular/**',
      '**/node_modules/**',
      'packages/server/migrations/**',
      'packages/web/src/common/box-validators.js',
      'packages/server/src/api/answer-schemas.ts',
    ],
  },
  eslint.configs.recommended,
  ...tseslint.configs.recommended,
  {
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      // A parameter that is there for the sake of its callers.
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_' }],
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
  {
    files: ['packages/*/{src,spec}/**/*.ts', 'e2e/**/*.ts', 'bench/src/**/*.ts', 'demo/src/**/*.ts'],
    languageOptions: {
      parserOptions: {
        project: [
          'packages/*/tsconfig.json',
          'packages/*/tsconfig.spec.json',
          'e2e/tsconfig.json',
          'bench/tsconfig.json',
          'demo/tsconfig.json',
        ],
      },
    },
    // What nobody waits for fails unseen: it is waited for, caught, or said to be let go by `void`.
    rules: { '@typescript-eslint/no-floating-promises': ['error', { ignoreVoid: true }] },
  },
  {
    files: ['packages/*/src/**/*.ts', 'bench/src/**/*.ts', 'demo/src/**/*.ts'],
    plugins: { ours: { rules: { 'doc-subject': docSubject } } },
    rules: { 'ours/doc-subject': 'error' },
  },
  ...boundaries,
);
