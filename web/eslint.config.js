import js from "@eslint/js";
import a11y from "eslint-plugin-jsx-a11y";
import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

/** From what all use to the screens: a folder imports what stands before it, and no screen another. */
const LAYERS = ["api", "ui", "stage", "ledger", "slips", "bench"];
const SCREENS = ["cold", "desk", "intake", "released", "spread"];
const forbidden = (folder) =>
  LAYERS.includes(folder)
    ? [...LAYERS.slice(LAYERS.indexOf(folder) + 1), ...SCREENS]
    : SCREENS.filter((one) => one !== folder);
const boundaries = [...LAYERS, ...SCREENS].map((folder) => ({
  files: [`src/${folder}/**`],
  rules: {
    "no-restricted-imports": [
      "error",
      { patterns: [{ group: forbidden(folder).map((one) => `../${one}/*`) }] },
    ],
  },
}));

export default ts.config(
  { ignores: ["dist", "src/api/schema.ts"] },
  js.configs.recommended,
  ...ts.configs.recommendedTypeChecked,
  ...ts.configs.strict,
  a11y.flatConfigs.recommended,
  {
    languageOptions: {
      parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname },
    },
    plugins: { "react-hooks": hooks },
    rules: {
      "react-hooks/rules-of-hooks": "error",
      "react-hooks/exhaustive-deps": "error",
      complexity: ["error", 25],
      // A part that scrolls must be reached by key.
      "jsx-a11y/no-noninteractive-tabindex": ["error", { roles: ["region"], tags: [] }],
      // Handlers may be asynchronous: what goes wrong in one is said where it happens.
      "@typescript-eslint/no-misused-promises": [
        "error",
        { checksVoidReturn: { attributes: false } },
      ],
    },
  },
  ...boundaries,
  {
    // Where many states of one thing meet on a screen; each is to be taken apart further.
    files: [
      "src/bench/BenchFor.tsx",
      "src/bench/charts.tsx",
      "src/slips/SlipPage.tsx",
      "src/spread/SpreadPage.tsx",
    ],
    rules: { complexity: ["error", 35] },
  },
);
