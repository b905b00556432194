// The look, in one place: neutral greys around anything that is judged by eye (no colour cast beside the pane), one calm
// accent, large targets. Both themes have the same shape; dark is for the bench, light for the front desk.

import { createTheme, type Theme } from "@mui/material/styles";

export type Mode = "dark" | "light";

export const GREYS = {
  dark: { ground: "#1b1b1b", raised: "#262626", pane: "#101010", line: "#454545", text: "#ececec", quiet: "#b8b8b8" },
  light: { ground: "#f3f3f3", raised: "#ffffff", pane: "#d9d9d9", line: "#b9b9b9", text: "#161616", quiet: "#555555" },
} as const;
const ACCENT = { dark: "#9cc4c0", light: "#1f5f5a" } as const;

export const TARGET_PX = 44;

export function makeTheme(mode: Mode): Theme {
  const grey = GREYS[mode];
  return createTheme({
    palette: {
      mode,
      primary: {
        main: ACCENT[mode],
        dark: mode === "dark" ? "#86b5b0" : "#174b47",
        contrastText: mode === "dark" ? "#10201f" : "#ffffff",
      },
      error: { main: mode === "dark" ? "#e8a79b" : "#8c2f1f" },
      info: { main: ACCENT[mode] },
      warning: { main: mode === "dark" ? "#dcc08e" : "#6b4c0d" },
      success: { main: mode === "dark" ? "#b5cfae" : "#2d5a27" },
      background: { default: grey.ground, paper: grey.raised },
      text: { primary: grey.text, secondary: grey.quiet },
      divider: grey.line,
    },
    typography: {
      fontFamily: "Inter, system-ui, sans-serif",
      fontSize: 14,
      h1: { fontSize: "1.35rem", fontWeight: 600, lineHeight: 1.25 },
      h2: { fontSize: "1.05rem", fontWeight: 600, lineHeight: 1.3 },
      h3: { fontSize: "0.9rem", fontWeight: 600, lineHeight: 1.35 },
      button: { textTransform: "none", fontWeight: 600 },
    },
    shape: { borderRadius: 6 },
    components: {
      MuiCssBaseline: {
        styleOverrides: {
          body: { fontVariantNumeric: "tabular-nums" },
          ":focus-visible": { outline: `3px solid ${ACCENT[mode]}`, outlineOffset: "2px" },
          "@media (prefers-reduced-motion: reduce)": {
            "*": { animationDuration: "0.01ms !important", transitionDuration: "0.01ms !important" },
          },
        },
      },
      // the library takes the outline away on its buttons, tabs and rows: keyboard users must see where they are
      MuiButtonBase: {
        defaultProps: { disableRipple: true },
        styleOverrides: {
          root: { "&:focus-visible": { outline: `3px solid ${grey.text}`, outlineOffset: "-3px" } },
        },
      },
      MuiButton: {
        defaultProps: { disableElevation: true },
        styleOverrides: { root: { minHeight: TARGET_PX }, contained: { "&:focus-visible": { outlineOffset: "2px" } } },
      },
      MuiIconButton: { styleOverrides: { root: { minWidth: TARGET_PX, minHeight: TARGET_PX } } },
      MuiToggleButton: { styleOverrides: { root: { minHeight: TARGET_PX, textTransform: "none" } } },
      MuiPaper: { defaultProps: { elevation: 0 }, styleOverrides: { root: { backgroundImage: "none" } } },
      MuiTextField: { defaultProps: { size: "small", fullWidth: true } },
    },
  });
}
