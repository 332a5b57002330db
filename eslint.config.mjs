import js from '@eslint/js';
import angular from 'angular-eslint';
import boundaries from 'eslint-plugin-boundaries';
import tseslint from 'typescript-eslint';

/** What each workspace may import of ours: arrows point one way. */
const ARROWS = {
  core: ['core'],
  contract: ['contract', 'core'],
  demo: ['demo', 'core'],
  server: ['server', 'contract', 'core', 'demo'],
  cli: ['cli', 'core'],
  web: ['web', 'contract', 'core'],
  e2e: ['e2e', 'core'],
};

/** Functions whose last bits the language leaves to the engine: the solver must give the same bits in a browser and on a server. */
const ENGINES = [
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
  'log1p',
  'log2',
  'log10',
  'pow',
  'hypot',
  'cbrt',
].concat(['sinh', 'cosh', 'tanh', 'asinh', 'acosh', 'atanh']);

export default tseslint.config(
  { ignores: ['**/dist/**', '**/node_modules/**', '.cache/**', '.data/**', 'server/migrations/**', 'test-results/**'] },
  js.configs.recommended,
  {
    files: ['**/*.mjs', '**/*.cjs'],
    languageOptions: {
      globals: {
        process: 'readonly',
        console: 'readonly',
        URL: 'readonly',
        module: 'writable',
        require: 'readonly',
        performance: 'readonly',
        setTimeout: 'readonly',
        fetch: 'readonly',
        Buffer: 'readonly',
      },
    },
  },
  {
    files: ['**/*.ts'],
    extends: [...tseslint.configs.strict, ...tseslint.configs.stylistic],
    plugins: { boundaries },
    settings: {
      'import/resolver': {
        typescript: {
          project: [
            'core/tsconfig.json',
            'contract/tsconfig.json',
            'demo/tsconfig.json',
            'server/tsconfig.json',
            'cli/tsconfig.json',
            'web/tsconfig.json',
          ],
          noWarnOnMultipleProjects: true,
        },
      },
      'boundaries/include': ['**/*.ts'],
      'boundaries/elements': Object.keys(ARROWS).map((type) => ({ type, pattern: type })),
    },
    rules: {
      'boundaries/dependencies': [
        'error',
        {
          default: 'disallow',
          policies: Object.entries(ARROWS).map(([from, to]) => ({
            from: { element: { type: from } },
            allow: to.map((type) => ({ to: { element: { type } } })),
          })),
        },
      ],
      '@typescript-eslint/consistent-type-imports': ['error', { fixStyle: 'inline-type-imports', disallowTypeAnnotations: false }],
      // The numeric code reads typed arrays by index and asserts where a check stands before.
      '@typescript-eslint/no-non-null-assertion': 'off',
      // Nor does it pay for an iterator in every frame.
      '@typescript-eslint/prefer-for-of': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', ignoreRestSiblings: true }],
      '@typescript-eslint/no-extraneous-class': ['error', { allowWithDecorator: true }],
      '@typescript-eslint/unified-signatures': 'off',
      '@typescript-eslint/no-invalid-void-type': 'off',
      eqeqeq: 'error',
      'no-console': 'error',
    },
  },
  {
    files: ['core/src/**/*.ts'],
    ignores: ['core/src/**/*.spec.ts', 'core/src/testing/**'],
    rules: {
      'no-restricted-imports': [
        'error',
        {
          patterns: [
            { group: ['node:*', 'fs', 'path', 'three*', '@angular/*', 'express'], message: 'The core has no platform and no interface.' },
          ],
        },
      ],
      'no-restricted-globals': ['error', 'window', 'document', 'process', 'performance', 'Date', 'fetch', 'localStorage'],
      'no-restricted-properties': [
        'error',
        { object: 'Math', property: 'random', message: 'Everything is seeded: use math/random.' },
        ...ENGINES.map((property) => ({
          object: 'Math',
          property,
          message: 'Engines differ in its last bits: use math/trig and math/numbers.',
        })),
      ],
      'no-restricted-syntax': [
        'error',
        {
          selector: "BinaryExpression[operator='**']:not([left.type='Literal'][right.type='Literal'])",
          message: 'Engines differ in the last bits of powers: use square, or exp and log of math/trig.',
        },
      ],
    },
  },
  {
    files: ['web/**/*.ts'],
    extends: [...angular.configs.tsRecommended],
    processor: angular.processInlineTemplates,
    rules: {
      '@angular-eslint/component-selector': ['error', { type: 'element', prefix: 'hs', style: 'kebab-case' }],
      '@angular-eslint/prefer-on-push-component-change-detection': 'error',
      '@angular-eslint/prefer-host-metadata-property': 'off',
    },
  },
  { files: ['web/**/*.html'], extends: [...angular.configs.templateRecommended, ...angular.configs.templateAccessibility] },
);
