import jsdoc from 'eslint-plugin-jsdoc';
import vue from 'eslint-plugin-vue';
import typescript from 'typescript-eslint';

/**
 * Sizes that a reader can hold in the head. What was larger when the rule came is counted in `eslint-suppressions.json`,
 * which may only get shorter (`npm run ratchet` takes out what was mended); new code obeys at once. An exception is a
 * comment with its reason on the line.
 */
const SIZES = {
  complexity: ['error', 15],
  'max-lines': ['error', 300],
  'max-lines-per-function': ['error', 60],
  'max-params': ['error', 5],
};

const LAYOUT = {
  'no-nested-ternary': 'error',
  'one-var': ['error', 'never'],
  'no-sequences': 'error',
  eqeqeq: 'error',
  'no-console': 'error',
};

const TYPED = {
  '@typescript-eslint/no-floating-promises': 'error',
  '@typescript-eslint/no-misused-promises': ['error', { checksVoidReturn: { attributes: false } }],
  '@typescript-eslint/switch-exhaustiveness-check': ['error', { considerDefaultExhaustiveForUnions: true }],
};

/** What other packages call says what it is: shapes, units, errors, source. Tests are claims and need none. */
const TOLD = {
  'jsdoc/require-jsdoc': [
    'error',
    {
      publicOnly: { cjs: false, esm: true },
      require: { FunctionDeclaration: true, ClassDeclaration: true, MethodDefinition: false },
      contexts: ['VariableDeclaration > VariableDeclarator > ArrowFunctionExpression'],
      checkConstructors: false,
      enableFixer: false,
    },
  ],
  'jsdoc/empty-tags': 'error',
};

/** Globals of the browser and of Node: the core computes, and touches neither. The compiler does not know them there either. */
const OUTSIDE = [
  'document',
  'window',
  'navigator',
  'fetch',
  'process',
  'Buffer',
  'require',
  'setTimeout',
  'setInterval',
];

export default typescript.config(
  {
    ignores: [
      '**/dist/**',
      '**/generated/**',
      '**/node_modules/**',
      'test-results/**',
      '.yarlop/**',
      '.cache/**',
      // AssemblyScript puts decorators where TypeScript's grammar has none; its own compiler checks the files.
      'packages/core/kernels/**',
    ],
  },
  ...typescript.configs.recommended,
  ...vue.configs['flat/essential'],
  { files: ['**/*.vue'], languageOptions: { parserOptions: { parser: typescript.parser } } },
  {
    linterOptions: { reportUnusedDisableDirectives: 'error' },
    rules: {
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { ignoreRestSiblings: true }],
      '@typescript-eslint/no-unused-expressions': 'error',
      '@typescript-eslint/consistent-type-imports': 'error',
      'vue/multi-word-component-names': 'off',
      ...LAYOUT,
      ...SIZES,
    },
  },
  {
    files: ['packages/**/*.{ts,vue}'],
    languageOptions: {
      parserOptions: { projectService: true, extraFileExtensions: ['.vue'], tsconfigRootDir: import.meta.dirname },
    },
    rules: TYPED,
  },
  {
    files: ['packages/core/src/**/*.ts'],
    rules: { 'no-restricted-globals': ['error', ...OUTSIDE] },
  },
  {
    files: ['packages/{core,media,pipeline}/src/**/*.ts'],
    plugins: { jsdoc },
    rules: TOLD,
  },
  {
    // A test is a list of claims: its length is no sign of a second idea.
    files: ['packages/*/test/**', 'packages/web/e2e/**', 'scripts/test/**'],
    rules: { 'max-lines-per-function': 'off', complexity: 'off', 'no-console': 'off' },
  },
  {
    files: ['packages/cli/src/bench*.ts', 'packages/demo/src/**', 'scripts/**'],
    rules: { 'no-console': 'off' },
  },
);
