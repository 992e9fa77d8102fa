import js from "@eslint/js";
import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

export default tseslint.config(
  { ignores: ["dist", "src/api/schema.d.ts"] },
  js.configs.recommended,
  ...tseslint.configs.strict,
  hooks.configs.flat["recommended-latest"],
  {
    // Tabs and choices behave alike everywhere, keys and names included, because they are made in one place.
    files: ["src/**/*.tsx"],
    rules: {
      "no-restricted-syntax": [
        "error",
        {
          selector: "JSXAttribute[name.name='role'] > Literal[value=/^(tab|tablist|radio|radiogroup|switch|slider)$/]",
          message: "Use parts/Tabs or parts/Segmented.",
        },
      ],
    },
  },
);
