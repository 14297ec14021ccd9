import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import globals from 'globals'
import ts from 'typescript-eslint'

export default ts.config(
  { ignores: ['dist', 'modules', 'src/api/schema.d.ts', 'src/components.d.ts'] },
  ...ts.configs.recommended,
  ...vue.configs['flat/recommended'],
  { languageOptions: { globals: globals.browser, parserOptions: { parser: ts.parser } } },
  { rules: { 'vue/multi-word-component-names': 'off' } },
  prettier,
  {
    rules: {
      // A text that is longer is not broken.
      'vue/max-len': [
        'error',
        { code: 120, tabWidth: 2, ignoreStrings: true, ignoreTemplateLiterals: true, ignoreHTMLTextContents: true },
      ],
    },
  },
  {
    // Every text stands in the catalogue, in each of its languages. Signs, names and keys are the same in all of them.
    files: ['src/**/*.vue'],
    rules: {
      'vue/no-bare-strings-in-template': [
        'error',
        {
          allowlist: [
            '·',
            '–',
            '—',
            '-',
            '/',
            '×',
            ':',
            ',',
            '.',
            '%',
            '(',
            ')',
            '→',
            '?',
            '…',
            '−',
            '+',
            ':00',
            'Late Lantern',
            'WebVTT',
            'SubRip',
            'email,name,course,part,group',
            'JSON',
            'x',
            'r',
            'm',
          ],
          attributes: {
            '/.+/': ['title', 'aria-label', 'aria-placeholder', 'aria-roledescription', 'aria-valuetext'],
            input: ['placeholder'],
            img: ['alt'],
            '/^el-/': ['placeholder', 'label', 'content'],
          },
        },
      ],
    },
  },
  {
    // Controls are those of the library. What is ours is drawn by hand, each for its reason:
    //   BoardRow       the lanterns that hang on the board, thousands of them
    //   MomentRow      a line of what is said, hundreds of them
    //   CaptionRow     a line of captions, hundreds of them, each as high as its text
    //   RuleSentence   the bold words of the sentence that a rule is
    //   PlanSentence, EditLecture   what stands in a sentence, as wide as what is chosen
    //   TwinsSheet     two recordings side by side, with a head on each line as well
    //   PlayerControls, ScrubLine   the player, which must be light on a student's line
    files: ['src/**/*.vue'],
    ignores: [
      'BoardRow',
      'MomentRow',
      'CaptionRow',
      'RuleSentence',
      'PlanSentence',
      'EditLecture',
      'PlayerControls',
      'ScrubLine',
      'TwinsSheet',
    ].map((name) => `src/**/${name}.vue`),
    rules: { 'vue/no-restricted-html-elements': ['error', 'button', 'select', 'input', 'textarea', 'table'] },
  },
  {
    // A part is given its data; what asks the server is a place.
    files: ['src/parts/**'],
    rules: {
      '@typescript-eslint/no-restricted-imports': [
        'error',
        {
          patterns: [
            { group: ['@tanstack/*', '**/api/*', '!**/api/client', '!**/api/schema'], allowTypeImports: true },
            { group: ['**/places/**'] },
          ],
        },
      ],
    },
  },
)
