// What the scripts of the pages are held to; `npm run lint`, and the tests run it.
import js from "@eslint/js";
import globals from "globals";

const rules = {
  ...js.configs.recommended.rules,
  complexity: ["error", 12],
  eqeqeq: ["error", "smart"],
  "no-var": "error",
  "prefer-const": "error",
  "no-implicit-globals": "error",
  "no-unused-vars": ["error", { args: "none", caughtErrors: "none" }],
};

export default [
  { ignores: ["**/htmx*.js", "node_modules/**", ".brunt/**", ".venv/**"] },
  {
    files: ["brunt_web/**/*.js"],
    languageOptions: { ecmaVersion: 2024, sourceType: "module", globals: { ...globals.browser, htmx: "readonly" } },
    rules,
  },
  { files: ["**/offline-worker.js"], languageOptions: { globals: globals.serviceworker } },
  { files: ["assets/*.mjs", "*.mjs"], languageOptions: { ecmaVersion: 2024, globals: globals.node }, rules },
];
