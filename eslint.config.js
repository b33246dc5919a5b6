import js from '@eslint/js';
import prettier from 'eslint-config-prettier';
import vue from 'eslint-plugin-vue';
import globals from 'globals';
import ts from 'typescript-eslint';
import vueParser from 'vue-eslint-parser';

/** What would make the core depend on a clock, on chance or on where it runs. */
const impure = [
  { object: 'Math', property: 'random', message: 'The core takes a seed.' },
  { object: 'Date', property: 'now', message: 'The core has no clock.' },
  { object: 'performance', property: 'now', message: 'The core has no clock.' },
];

export default ts.config(
  {
    ignores: [
      '**/dist/**',
      '**/node_modules/**',
      'data/**',
      '.cache/**',
      'test-results/**',
      '.dependency-cruiser.cjs',
    ],
  },
  js.configs.recommended,
  ...ts.configs.recommended,
  ...vue.configs['flat/recommended'],
  prettier,
  {
    rules: {
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/consistent-type-imports': [
        'error',
        { fixStyle: 'inline-type-imports', prefer: 'type-imports', disallowTypeAnnotations: false },
      ],
      'vue/multi-word-component-names': 'off',
      'vue/require-default-prop': 'off',
      'vue/no-template-shadow': 'off',
      'no-empty-pattern': 'off',
      'vue/attributes-order': 'off',
      eqeqeq: 'error',
    },
  },
  {
    files: ['**/*.vue'],
    languageOptions: { parser: vueParser, parserOptions: { parser: ts.parser }, globals: globals.browser },
  },
  { files: ['web/**/*.ts', 'e2e/**/*.ts'], languageOptions: { globals: globals.browser } },
  { files: ['scripts/**', 'server/**', 'e2e/**', '*.js'], languageOptions: { globals: globals.node } },
  { files: ['scripts/**'], languageOptions: { globals: globals.browser } },
  { files: ['server/test/harness.ts'], rules: { '@typescript-eslint/no-explicit-any': 'off' } },
  {
    files: ['**/*.test.ts', 'server/test/**'],
    rules: { '@typescript-eslint/no-explicit-any': 'off', '@typescript-eslint/no-unused-expressions': 'off' },
  },
  {
    files: ['core/src/**/*.ts'],
    ignores: ['**/*.test.ts', '**/*.testkit.ts'],
    rules: {
      'no-restricted-properties': ['error', ...impure],
      'no-restricted-globals': [
        'error',
        'Date',
        'performance',
        'window',
        'document',
        'process',
        'setTimeout',
        'setInterval',
        'fetch',
      ],
    },
  },
);
