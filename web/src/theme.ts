import { createTheme, type Theme } from "@mui/material/styles";

/** Colours of the desk by name; the stage and the drawings read them too. */
export interface Inks {
  paper: string;
  sheet: string;
  ink: string;
  faint: string;
  line: string;
  /** The border of what can be worked: told from its ground at 3 to 1. */
  edge: string;
  blue: string;
  red: string;
  left: string;
  right: string;
  floor: string;
  shade: string;
  bar: string;
  onBar: string;
  axisX: string;
  axisY: string;
  axisZ: string;
}

export const day: Inks = {
  paper: "#F5F0E6",
  sheet: "#FBF8F2",
  ink: "#23303B",
  faint: "#56616B",
  line: "#D9D0BF",
  edge: "#877E6C",
  blue: "#2F6690",
  red: "#A93D2F",
  left: "#256B5B",
  right: "#8A3F6B",
  floor: "#E4DCCB",
  shade: "#D3C9B4",
  bar: "#23303B",
  onBar: "#F5F0E6",
  axisX: "#9A5A00",
  axisY: "#6A4C93",
  axisZ: "#3E6F73",
};

export const night: Inks = {
  paper: "#252B31",
  sheet: "#30373E",
  ink: "#ECE7DB",
  faint: "#A9B0B5",
  line: "#414A52",
  edge: "#85909A",
  blue: "#7FB4DC",
  red: "#E58A7B",
  left: "#67C3AC",
  right: "#D98BB8",
  floor: "#434C54",
  shade: "#272D33",
  bar: "#171C21",
  onBar: "#ECE7DB",
  axisX: "#E6A84A",
  axisY: "#BFA3E6",
  axisZ: "#7CC9CC",
};

export type Desk = "day" | "night";
export const inksOf = (desk: Desk): Inks => (desk === "day" ? day : night);

const FAMILY = '"Atkinson Hyperlegible", system-ui, sans-serif';

// Things appear and go at once for those who ask their system for less motion.
const AT_ONCE = {
  MuiMenu: { defaultProps: { transitionDuration: 0 } },
  MuiPopover: { defaultProps: { transitionDuration: 0 } },
  MuiDialog: { defaultProps: { transitionDuration: 0 } },
  MuiCollapse: { defaultProps: { timeout: 0 } },
  MuiFade: { defaultProps: { timeout: 0 } },
  MuiGrow: { defaultProps: { timeout: 0 } },
};

export function themeOf(desk: Desk, still = false): Theme {
  const c = inksOf(desk);
  return createTheme({
    palette: {
      mode: desk === "day" ? "light" : "dark",
      background: { default: c.paper, paper: c.sheet },
      text: { primary: c.ink, secondary: c.faint },
      contrastThreshold: 4.5,
      primary: { main: c.blue, contrastText: desk === "day" ? "#FFFFFF" : c.bar },
      error: { main: c.red },
      divider: c.line,
    },
    shape: { borderRadius: 4 },
    typography: { fontFamily: FAMILY, fontSize: 13, button: { textTransform: "none" } },
    ...(still && { transitions: { create: () => "none" } }),
    components: {
      ...(still && AT_ONCE),
      MuiCssBaseline: {
        styleOverrides: {
          "html, body, #root": { height: "100%", margin: 0 },
          ":root": { colorScheme: desk === "day" ? "light" : "dark" },
          ".notistack-SnackbarContainer": { top: "84px !important" },
          ".notistack-MuiContent-default": { backgroundColor: `${c.ink} !important`, color: `${c.paper} !important` },
          ".notistack-MuiContent-error": { backgroundColor: `${desk === "day" ? "#A33A2C" : "#B8503F"} !important` },
          "[data-part]:focus": { outline: "none" },
          "[data-part]:focus-visible": { outline: `2px solid ${c.blue}`, outlineOffset: 1 },
          body: { fontVariantNumeric: "tabular-nums", fontSize: 13, lineHeight: 1.35 },
        },
      },
      MuiButtonBase: { defaultProps: { disableRipple: true } },
      MuiButton: { defaultProps: { size: "small" }, styleOverrides: { root: { minHeight: 28, padding: "2px 10px" } } },
      MuiIconButton: { defaultProps: { size: "small" }, styleOverrides: { root: { borderRadius: 4, padding: 4 } } },
      MuiOutlinedInput: { styleOverrides: { notchedOutline: { borderColor: c.edge } } },
      MuiTextField: { defaultProps: { size: "small" } },
      MuiTooltip: { defaultProps: { enterDelay: 500, arrow: true } },
      MuiDialog: { ...(still && AT_ONCE.MuiDialog), styleOverrides: { paper: { backgroundImage: "none" } } },
      MuiMenuItem: { styleOverrides: { root: { minHeight: 28, fontSize: 13 } } },
    },
  });
}
