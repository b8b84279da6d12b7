import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import globals from 'globals'
import ts from 'typescript-eslint'

export default ts.config(
  { ignores: ['dist/**', 'node_modules/**', 'src/api/schema.gen.ts'] },
  ...ts.configs.recommended,
  ...vue.configs['flat/recommended'],
  {
    files: ['**/*.vue', '**/*.ts'],
    languageOptions: { globals: globals.browser, parserOptions: { parser: ts.parser } },
    rules: { 'vue/multi-word-component-names': 'off', 'vue/require-default-prop': 'off', 'no-undef': 'off' },
  },
  {
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector:
            "Property[key.name='queryKey'] > ArrayExpression, Property[key.name='queryKey'] > CallExpression > ArrowFunctionExpression > ArrayExpression",
          message: 'Answers are kept under the names in api/keys.ts.',
        },
      ],
    },
  },
  // Whatever grows over this is divided by what it is about.
  { files: ['src/**/*.vue'], rules: { 'max-lines': ['error', { max: 300 }] } },
  prettier,
)
