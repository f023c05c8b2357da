import vue from 'eslint-plugin-vue';
import typescript from 'typescript-eslint';

export default typescript.config(
  {
    ignores: [
      '**/dist/**',
      '**/generated/**',
      '**/node_modules/**',
      'test-results/**',
      '.yarlop/**',
      // AssemblyScript puts decorators where TypeScript's grammar has none; its own compiler checks the file.
      'packages/core/kernels/**',
    ],
  },
  ...typescript.configs.recommended,
  ...vue.configs['flat/essential'],
  { files: ['**/*.vue'], languageOptions: { parserOptions: { parser: typescript.parser } } },
  {
    rules: {
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-unused-expressions': 'off',
      '@typescript-eslint/consistent-type-imports': 'error',
      '@typescript-eslint/only-throw-error': 'off',
      'vue/multi-word-component-names': 'off',
      'max-lines': ['error', { max: 460, skipBlankLines: true }],
      eqeqeq: 'error',
      'no-console': 'error',
    },
  },
  {
    files: [
      'packages/*/test/**',
      'packages/web/e2e/**',
      'packages/cli/src/bench.ts',
      'packages/demo/src/**',
      'scripts/**',
    ],
    rules: { 'no-console': 'off' },
  },
);
