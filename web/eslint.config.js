import js from '@eslint/js';
import prettier from 'eslint-config-prettier';
import hooks from 'eslint-plugin-react-hooks';
import globals from 'globals';
import ts from 'typescript-eslint';

export default ts.config(
  { ignores: ['dist', 'outlet-public', 'src/shared/api/schema.ts'] },
  js.configs.recommended,
  ...ts.configs.strict,
  hooks.configs.flat.recommended,
  prettier,
  { languageOptions: { globals: { ...globals.browser } } },
);
