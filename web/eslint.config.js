import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

const noMui = { group: ["@mui/*", "@emotion/*"], message: "The pane is pure geometry and drawing: no MUI in it." };
const noReact = {
  group: ["react", "react-dom", "react-router", "@mui/*"],
  message: "The glass and the hand camera are plain script.",
};

export default tseslint.config(
  { ignores: ["src/bench/api/schema.d.ts", "dist"] },
  ...tseslint.configs.recommendedTypeChecked,
  {
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    plugins: { "react-hooks": hooks },
    rules: {
      ...hooks.configs.recommended.rules,
      "@typescript-eslint/no-explicit-any": "error",
      "@typescript-eslint/switch-exhaustiveness-check": "error",
      "@typescript-eslint/no-misused-promises": ["error", { checksVoidReturn: { attributes: false } }],
    },
  },
  { files: ["src/pane/**"], rules: { "no-restricted-imports": ["error", { patterns: [noMui] }] } },
  { files: ["src/glass/**", "src/snap/**"], rules: { "no-restricted-imports": ["error", { patterns: [noReact] }] } },
);
