import { createTheme, Modal, type CSSVariablesResolver, type MantineColorsTuple } from "@mantine/core";

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
  components: {
    // A dialog is there at once, for whoever types ahead.
    Modal: Modal.extend({
      defaultProps: { closeButtonProps: { "aria-label": "Close" }, transitionProps: { duration: 0 } },
    }),
  },
});

// The components take our colours: their own grey tones are too faint for text, ours pass WCAG AA on both grounds.
const ours = {
  "--mantine-color-body": "var(--sheet)",
  "--mantine-color-text": "var(--ink)",
  "--mantine-color-dimmed": "var(--soft)",
  "--mantine-color-placeholder": "var(--placeholder)",
  "--mantine-color-error": "var(--failed)",
  "--mantine-color-default-border": "var(--border)",
};

export const variables: CSSVariablesResolver = () => ({ variables: {}, light: ours, dark: ours });
