import {
  Button,
  createTheme,
  Input,
  Modal,
  Pill,
  type CSSVariablesResolver,
  type MantineColorsTuple,
  Checkbox,
} from "@mantine/core";

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
  fontFamily: "var(--words)",
  fontFamilyMonospace: "var(--mono)",
  fontSizes: { xs: "13px", sm: "13px", md: "14px", lg: "16px", xl: "20px" },
  lineHeights: { xs: "1.4", sm: "1.45", md: "1.45", lg: "1.4", xl: "1.35" },
  radius: { xs: "4px", sm: "7px", md: "9px", lg: "13px" },
  components: {
    // Controls are 32 pixels high, in dense forms 28.
    Input: Input.extend({
      vars: (_, { size }) => ({ wrapper: { "--input-height": size === "xs" ? "28px" : "32px", "--input-fz": "13px" } }),
    }),
    Button: Button.extend({
      vars: (_, { size }) => ({
        root:
          size === undefined || size === "xs" || size === "sm"
            ? { "--button-height": "32px", "--button-fz": "13px", "--button-padding-x": "13px" }
            : {},
      }),
      styles: { label: { fontWeight: 560 } },
    }),
    Checkbox: Checkbox.extend({ defaultProps: { radius: "xs", size: "xs" } }),
    Pill: Pill.extend({ vars: () => ({ root: { "--pill-fz": "12px" } }) }),
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
