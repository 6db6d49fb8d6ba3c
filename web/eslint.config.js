import js from '@eslint/js';
import prettier from 'eslint-config-prettier';
import hooks from 'eslint-plugin-react-hooks';
import globals from 'globals';
import ts from 'typescript-eslint';

export default ts.config(
  { ignores: ['dist', 'outlet-public', 'src/shared/api/schema.ts'] },
  js.configs.recommended,
  hooks.configs.flat.recommended,
  {
    languageOptions: { globals: { ...globals.browser } },
    // Nothing is memoised by a compiler here, which is all it warns of.
    rules: { 'react-hooks/incompatible-library': 'off' },
  },
  {
    files: ['**/*.ts', '**/*.tsx'],
    extends: [...ts.configs.strictTypeChecked],
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    rules: {
      // Numbers in texts are fine.
      '@typescript-eslint/restrict-template-expressions': ['error', { allowNumber: true }],
      // Tells little of what the compiler does not, and takes a quarter of the time.
      '@typescript-eslint/no-deprecated': 'off',
      // There are neither enums nor classes, and to find none takes a seventh of the time.
      '@typescript-eslint/no-unsafe-class-instance-assignment': 'off',
      '@typescript-eslint/no-unsafe-enum-assignment': 'off',
      // Generic readers of what is stored say what it is.
      '@typescript-eslint/no-unnecessary-type-parameters': 'off',
      // A short arrow may give back nothing.
      '@typescript-eslint/no-confusing-void-expression': ['error', { ignoreArrowShorthand: true }],
    },
  },
  prettier,
);
