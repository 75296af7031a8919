// The linter of the page's scripts: what is most likely a slip, and what this house does not write.
import js from "@eslint/js";
import globals from "globals";

export default [
  js.configs.recommended,
  {
    files: ["src/fotaxis/web/static/js/**/*.js"],
    languageOptions: { ecmaVersion: 2024, sourceType: "module", globals: globals.browser },
    rules: {
      "no-var": "error", "prefer-const": "error", eqeqeq: "error", "no-shadow": ["error", { builtinGlobals: false }],
      "max-lines": ["error", 400], "max-len": ["error", { code: 160, ignoreStrings: true, ignoreTemplateLiterals: true }],
      "no-unused-vars": ["error", { argsIgnorePattern: "^_" }],
    },
  },
];
