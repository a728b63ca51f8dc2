// Paper and ink, by day and by night. The only place where colours are named.
import { createTheme } from "@mui/material/styles";

const TEXT = '"Atkinson Hyperlegible Next", system-ui, sans-serif';
export const MONO = '"IBM Plex Mono", ui-monospace, monospace';

declare module "@mui/material/styles" {
  interface Palette {
    rule: string;
    selected: string;
  }
  interface PaletteOptions {
    rule?: string;
    selected?: string;
  }
}

/** Fields and charges of the emblems; the same in both themes, like painted shields. */
export const EMBLEM_COLOURS = ["#5A2A57", "#9A7B2F", "#3C5B7A", "#1C6B66", "#A2352B", "#1F2730", "#6E7F4F", "#E9DFC3"];

export const theme = createTheme({
  cssVariables: { colorSchemeSelector: "media" },
  colorSchemes: {
    light: {
      palette: {
        background: { default: "#F6F3EA", paper: "#FFFDF8" },
        text: { primary: "#1F2730", secondary: "#5C646B" },
        primary: { main: "#5A2A57", contrastText: "#FFFDF8" },
        secondary: { main: "#7A601F", light: "#9A7B2F", contrastText: "#FFFDF8" },
        error: { main: "#A2352B", contrastText: "#FFFDF8" },
        warning: { main: "#8A6100", contrastText: "#FFFDF8" },
        info: { main: "#3C5B7A", contrastText: "#FFFDF8" },
        success: { main: "#1C6B66", contrastText: "#FFFDF8" },
        divider: "#D8D2C2",
        rule: "#D8D2C2",
        selected: "#EFE6EC",
      },
    },
    dark: {
      palette: {
        background: { default: "#1B1220", paper: "#241A2B" },
        text: { primary: "#F1EAE0", secondary: "#B9AEB8" },
        primary: { main: "#D9A9D4", contrastText: "#241A2B" },
        secondary: { main: "#D6B968", light: "#D6B968", contrastText: "#241A2B" },
        error: { main: "#F0978C", contrastText: "#241A2B" },
        warning: { main: "#E3B75C", contrastText: "#241A2B" },
        info: { main: "#9DBBDA", contrastText: "#241A2B" },
        success: { main: "#7CCAC2", contrastText: "#241A2B" },
        divider: "#46394E",
        rule: "#46394E",
        selected: "#372A40",
      },
    },
  },
  shape: { borderRadius: 4 },
  shadows: Array(25).fill("none") as never,
  typography: {
    fontFamily: TEXT,
    fontSize: 14,
    h1: { fontSize: "1.7rem", fontWeight: 700, lineHeight: 1.2 },
    h2: { fontSize: "1.15rem", fontWeight: 700, lineHeight: 1.3 },
    h3: { fontSize: "0.95rem", fontWeight: 700, lineHeight: 1.3 },
    button: { textTransform: "none", fontWeight: 600 },
  },
  transitions: { duration: { shortest: 80, shorter: 100, short: 120, standard: 150, complex: 180, enteringScreen: 150, leavingScreen: 120 } },
  components: {
    MuiCssBaseline: {
      styleOverrides: {
        "@media (prefers-reduced-motion: reduce)": { "*": { animation: "none !important", transition: "none !important" } },
        ":focus-visible": { outline: "2px solid currentColor", outlineOffset: 2 },
        body: { fontVariantNumeric: "tabular-nums" },
      },
    },
    MuiButtonBase: { defaultProps: { disableRipple: true } },
    MuiButton: { defaultProps: { size: "small", disableElevation: true } },
    MuiTextField: { defaultProps: { size: "small" } },
    MuiInputBase: { styleOverrides: { root: { fontSize: "0.95rem" }, input: { "&.MuiInputBase-inputSizeSmall": { paddingTop: 7, paddingBottom: 7 } } } },
    MuiSelect: { defaultProps: { size: "small" } },
    MuiPaper: {
      defaultProps: { elevation: 0 },
      styleOverrides: { root: ({ theme: t }) => ({ backgroundImage: "none", border: `1px solid ${t.vars?.palette.rule ?? t.palette.rule}` }) },
    },
    MuiLink: { defaultProps: { underline: "hover" } },
  },
});
