import js from "@eslint/js";
import imports, { createNodeResolver } from "eslint-plugin-import-x";
import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

export default ts.config(
  { ignores: ["dist", "src/api/schema.gen.ts"] },
  js.configs.recommended,
  ...ts.configs.recommended,
  hooks.configs.flat["recommended-latest"],
  {
    plugins: { "import-x": imports },
    settings: {
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
      // The stage writes into three.js objects inside the frame loop, on purpose and outside React's rendering.
      "react-hooks/immutability": "off",
      "react-hooks/refs": "off",
    },
  },
);
