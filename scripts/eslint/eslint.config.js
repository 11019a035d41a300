// Rules for lepidos/web/static/js. Run by scripts/check.sh from the root of the project.
import js from "@eslint/js";
import globals from "globals";

const rules = {
  ...js.configs.recommended.rules,
  "max-len": ["error", { code: 120 }],
  "max-lines": ["error", 320],
  complexity: ["error", 15],
  eqeqeq: "error",
  "no-var": "error",
  "prefer-const": "error",
  "no-shadow": "error",
  "no-unused-vars": "error",
  "object-shorthand": "error",
};
const linterOptions = { reportUnusedDisableDirectives: "error" };

const EARLY = "lepidos/web/static/js/early.js"; // is there before any module

export default [
  {
    files: [EARLY],
    languageOptions: { ecmaVersion: 2022, sourceType: "script", globals: globals.browser },
    linterOptions,
    rules,
  },
  {
    files: ["lepidos/web/static/js/*.js"],
    ignores: [EARLY],
    languageOptions: { ecmaVersion: 2022, sourceType: "module", globals: globals.browser },
    linterOptions,
    rules: { ...rules, "no-implicit-globals": "error" },
  },
  {
    files: ["lepidos/web/static/worker.js"],
    languageOptions: { ecmaVersion: 2022, sourceType: "script", globals: globals.serviceworker },
    linterOptions,
    rules,
  },
];
