import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

const castToNever = {
  selector: "TSAsExpression > TSNeverKeyword",
  message: "A cast to never hides what the types say: give it its type, or fix the declaration.",
};
const keyWrittenHere = {
  selector: "Property[key.name='queryKey'] > ArrayExpression",
  message: "Keys of cached answers stand in queries/keys.ts.",
};
const outside = (message, ...group) => ["error", { patterns: [{ group, message }] }];

export default tseslint.config(
  { ignores: ["dist", "src/core/api/schema.d.ts"] },
  ...tseslint.configs.strict,
  {
    plugins: { "react-hooks": hooks },
    rules: {
      "react-hooks/rules-of-hooks": "error",
      "react-hooks/exhaustive-deps": "error",
      "no-restricted-syntax": ["error", castToNever, keyWrittenHere],
    },
  },
  {
    files: ["src/core/**"],
    rules: {
      "no-restricted-imports": outside(
        "The core knows no React and nothing that is drawn with it.",
        "react",
        "react-*",
        "react/*",
        "react-dom/*",
        "@mantine/*",
        "@tanstack/*",
        "@xyflow/*",
        "@testing-library/*",
        "**/app/**",
        "**/pages/**",
        "**/parts/**",
        "**/queries/**",
      ),
    },
  },
  {
    files: ["src/queries/**"],
    rules: {
      "no-restricted-imports": outside(
        "Queries know the core, and nothing of what is drawn.",
        "@mantine/*",
        "**/app/**",
        "**/pages/**",
        "**/parts/**",
      ),
    },
  },
  { files: ["src/queries/**"], rules: { "no-restricted-syntax": ["error", castToNever] } },
);
