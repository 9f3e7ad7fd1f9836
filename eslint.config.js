import js from '@eslint/js';
import prettier from 'eslint-config-prettier';
import svelte from 'eslint-plugin-svelte';
import globals from 'globals';
import ts from 'typescript-eslint';
import svelteConfig from './svelte.config.js';

/** Of components, rules that need their types take many minutes: CI leaves them to whoever lints what they changed, and checks types by svelte-check. */
const isPlain = process.env.BUSSOLA_LINT === 'plain';

export default ts.config(
  { ignores: ['build/', '.svelte-kit/', 'node_modules/', 'bussola-data/', '*.cjs', 'scripts/'] },
  js.configs.recommended,
  ...ts.configs.recommendedTypeChecked,
  ...svelte.configs.recommended,
  prettier,
  ...svelte.configs.prettier,
  {
    languageOptions: {
      globals: { ...globals.browser, ...globals.node, ...globals.mocha },
      parserOptions: {
        projectService: { allowDefaultProject: ['*.js'] },
        extraFileExtensions: ['.svelte'],
        tsconfigRootDir: import.meta.dirname
      }
    },
    rules: {
      'no-undef': 'off',
      eqeqeq: 'error',
      'no-console': 'error',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/restrict-template-expressions': ['error', { allowNumber: true }],
      '@typescript-eslint/switch-exhaustiveness-check': 'error',
      '@typescript-eslint/no-unused-expressions': 'off',
      '@typescript-eslint/only-throw-error': 'off',
      'svelte/no-navigation-without-resolve': 'off',
      // It also finds maps and search parameters that nothing on the screen depends on.
      'svelte/prefer-svelte-reactivity': 'off',
      'no-restricted-syntax': [
        'error',
        {
          selector: "CallExpression[callee.object.name='Date'][callee.property.name='now']",
          message: 'Take the time from the injected clock.'
        },
        {
          selector: "NewExpression[callee.name='Date'][arguments.length=0]",
          message: 'Take the time from the injected clock.'
        }
      ]
    }
  },
  {
    files: ['**/*.svelte', '**/*.svelte.ts'],
    languageOptions: { parserOptions: { parser: ts.parser, svelteConfig } }
  },
  {
    files: ['bench/**', 'stand-ins/main.ts', 'demo/**', 'tests/soak/**'],
    rules: { 'no-console': 'off' }
  },
  { files: isPlain ? ['**/*.js', '**/*.svelte'] : ['**/*.js'], ...ts.configs.disableTypeChecked },
  ...(isPlain
    ? [
        {
          files: ['**/*.svelte'],
          rules: { 'svelte/no-unused-props': 'off', 'svelte/require-store-reactive-access': 'off' }
        }
      ]
    : [])
);
