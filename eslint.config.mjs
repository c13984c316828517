import next from 'eslint-config-next/core-web-vitals';
import tseslint from 'typescript-eslint';
import deterministicTests, { RULES } from './lint/deterministic-tests.mjs';

export default tseslint.config(
  {
    ignores: [
      '.next',
      'build',
      'node_modules',
      'data',
      '.cache',
      'next-env.d.ts',
      'drizzle',
      '.dependency-cruiser.cjs',
    ],
  },
  // Rules of React and Next.js, for what is made with them.
  ...next.map((one) => (one.rules || one.files ? { ...one, files: ['src/{app,ui}/**/*.{ts,tsx}'] } : one)),
  ...tseslint.configs.strict,
  {
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    rules: {
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-invalid-void-type': 'off',
      // A field is left out of an object by naming it before the rest.
      '@typescript-eslint/no-unused-vars': ['error', { ignoreRestSiblings: true }],
      '@typescript-eslint/consistent-type-imports': ['error', { fixStyle: 'inline-type-imports' }],
      '@typescript-eslint/no-floating-promises': 'error',
      '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: { attributes: false } }],
      '@typescript-eslint/switch-exhaustiveness-check': ['error', { considerDefaultExhaustiveForUnions: true }],
      '@typescript-eslint/no-extraneous-class': ['error', { allowWithDecorator: true }],
      'max-lines': ['error', { max: 500, skipBlankLines: true }],
      eqeqeq: ['error', 'always', { null: 'ignore' }],
      'no-restricted-syntax': ['error', { selector: 'TSEnumDeclaration', message: 'Use a union of literals.' }],
    },
  },
  {
    // The core is pure: it runs anywhere and gives the same result every time.
    files: ['src/core/**/*.ts'],
    rules: {
      'no-restricted-globals': [
        'error',
        'window',
        'document',
        'process',
        'Buffer',
        'fetch',
        'setTimeout',
        'performance',
        'crypto',
      ],
      'no-restricted-properties': [
        'error',
        { object: 'Math', property: 'random', message: 'Chance comes in from outside.' },
        { object: 'Date', property: 'now', message: 'Time comes in from outside.' },
      ],
    },
  },
  { files: ['**/*.test.ts'], rules: { 'no-restricted-globals': 'off' } },
  {
    // Tests pass for a reason, and not by luck.
    files: [
      '**/*.test.ts',
      '**/*.spec.ts',
      '{tests,machine,e2e,torture}/**/*.ts',
      'jest.config.mjs',
      'playwright.config.ts',
    ],
    plugins: { tests: deterministicTests },
    rules: Object.fromEntries(Object.keys(RULES).map((name) => [`tests/${name}`, 'error'])),
  },
  {
    files: ['**/*.mjs'],
    extends: [tseslint.configs.disableTypeChecked],
    languageOptions: { parserOptions: { projectService: false } },
  },
);
