import js from "@eslint/js";
import boundaries from "eslint-plugin-boundaries";
import imports, { createNodeResolver } from "eslint-plugin-import-x";
import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

const of = (type) => ({ element: { type } });
const feature = of("feature");
/** What a floor of the page may use. */
const floor = (from, ...allowed) => ({ from: of(from), allow: allowed.map((type) => ({ to: of(type) })) });

export default ts.config(
  { ignores: ["dist", "src/api/*.gen.ts"] },
  js.configs.recommended,
  ...ts.configs.recommended,
  hooks.configs.flat["recommended-latest"],
  {
    plugins: { "import-x": imports, boundaries },
    settings: {
      "import/resolver": { node: { extensions: [".ts", ".tsx", ".js"] } },
      "boundaries/elements": [
        { type: "app", pattern: "src/app" },
        { type: "feature", pattern: "src/features/*", capture: ["name"] },
        { type: "desk", pattern: "src/desk" },
        { type: "model", pattern: "src/model" },
        { type: "ui", pattern: "src/ui" },
        { type: "api", pattern: "src/api" },
      ],
      "import-x/extensions": [".ts", ".tsx"],
      "import-x/parsers": { "@typescript-eslint/parser": [".ts", ".tsx"] },
      "import-x/resolver-next": [createNodeResolver({ extensions: [".ts", ".tsx", ".js"] })],
    },
    rules: {
      "@typescript-eslint/no-unused-vars": ["error", { argsIgnorePattern: "^_" }],
      // The formatter breaks code, not words.
      "max-len": ["error", { code: 120, ignorePattern: 'd="[^"]*"' }],
      // Types may be told both ways; what runs goes one way.
      "import-x/no-cycle": "error",
      // The floors of the page; no feature knows another.
      "boundaries/dependencies": [
        "error",
        {
          default: "disallow",
          policies: [
            floor("app", "app", "feature", "desk", "model", "ui", "api"),
            floor("feature", "desk", "model", "ui", "api"),
            {
              from: feature,
              allow: [{ to: { element: { type: "feature", captured: { name: "{{from.element.captured.name}}" } } } }],
            },
            floor("desk", "desk", "model", "ui", "api"),
            // No store and no React: what a page knows of a motion, tested by itself.
            floor("model", "model", "api"),
            floor("ui", "ui", "model", "api"),
            floor("api", "api"),
          ],
        },
      ],
      // The stage writes into three.js objects inside the frame loop, on purpose and outside React's rendering.
      "react-hooks/immutability": "off",
      "react-hooks/refs": "off",
    },
  },
  {
    // Panels change the store by acts that have a name.
    files: ["src/features/**", "src/app/**", "src/ui/**"],
    rules: {
      "no-restricted-imports": [
        "error",
        {
          patterns: [{ group: ["**/desk/store"], importNames: ["setDesk"], message: "Use or add an act of the desk." }],
        },
      ],
    },
  },
);
