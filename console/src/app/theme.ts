import { createTheme, type CSSVariablesResolver, type MantineColorsTuple } from "@mantine/core";

const pine: MantineColorsTuple = [
  "#e9f3f1",
  "#d5e6e3",
  "#abcfc9",
  "#7cc4b8",
  "#5aa69b",
  "#3d8a80",
  "#2b7269",
  "#1f625b",
  "#15524f",
  "#0d403d",
];

export const theme = createTheme({
  colors: { pine },
  primaryColor: "pine",
  primaryShade: 8,
  autoContrast: true,
  defaultRadius: "sm",
  fontFamily: "system-ui, 'Segoe UI', 'DejaVu Sans', sans-serif",
});

// Mantine's own grey tones are too faint for text; ours pass WCAG AA on both grounds.
export const variables: CSSVariablesResolver = () => ({
  variables: {},
  light: {
    "--mantine-color-body": "#fffefb",
    "--mantine-color-text": "#22282b",
    "--mantine-color-dimmed": "#5b6367",
    "--mantine-color-placeholder": "#6a7175",
    "--mantine-color-error": "#b3261e",
    "--mantine-color-default-border": "#b9b4a8",
  },
  dark: {
    "--mantine-color-body": "#1e2324",
    "--mantine-color-text": "#e8e6e0",
    "--mantine-color-dimmed": "#a9b0b0",
    "--mantine-color-placeholder": "#9aa2a2",
    "--mantine-color-error": "#ff958c",
    "--mantine-color-default-border": "#4a5254",
  },
});
