// The Vue and TypeScript sets; how code is laid out is Prettier's business.
import js from '@eslint/js'
import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import ts from 'typescript-eslint'

export default ts.config(
  { ignores: ['node_modules', 'dist', 'src/api/schema.ts'] },
  js.configs.recommended,
  ...ts.configs.recommended,
  ...vue.configs['flat/recommended'],
  {
    files: ['**/*.vue'],
    languageOptions: { parserOptions: { parser: ts.parser } },
  },
  {
    files: ['**/*.{ts,vue}'],
    languageOptions: { globals: {} },
    rules: {
      // vue-tsc knows what is defined.
      'no-undef': 'off',
      'vue/multi-word-component-names': 'off',
      // Optional props are left out where they have no default.
      'vue/require-default-prop': 'off',
      '@typescript-eslint/no-unused-expressions': ['error', { allowTernary: true, allowShortCircuit: true }],
      'max-len': ['error', { code: 140, ignoreStrings: true, ignoreTemplateLiterals: true, ignoreUrls: true, ignorePattern: "d='|own\\(" }],
    },
  },
  prettier,
  {
    files: ['**/*.{ts,vue}'],
    rules: { 'max-len': ['error', { code: 140, ignoreStrings: true, ignoreTemplateLiterals: true, ignoreUrls: true }] },
  },
)
