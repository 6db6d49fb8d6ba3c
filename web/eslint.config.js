import js from '@eslint/js';
import prettier from 'eslint-config-prettier';
import globals from 'globals';
import ts from 'typescript-eslint';

/** What goes by types, and by how components are drawn, is looked at by the native linter: see .oxlintrc.json. */
export default ts.config(
  { ignores: ['dist', 'outlet-public', 'src/shared/api/schema.ts'] },
  js.configs.recommended,
  { languageOptions: { globals: { ...globals.browser } } },
  { files: ['**/*.ts', '**/*.tsx'], extends: [...ts.configs.strict] },
  prettier,
);
