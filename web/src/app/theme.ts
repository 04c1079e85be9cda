import { createTheme } from "@mui/material/styles";

/** Stone grays and black only: see interface.md. The dim variant follows the same tokens. */
const INK = "var(--ink)";

export const theme = createTheme({
  palette: {
    primary: { main: "#141414", contrastText: "#ffffff" },
    secondary: { main: "#454545" },
    error: { main: "#141414" },
    text: { primary: "#141414", secondary: "#454545" },
    background: { default: "#bdbdbd", paper: "#cccccc" },
    divider: "#9a9a9a",
  },
  shape: { borderRadius: 0 },
  typography: {
    fontFamily: '"Public Sans Variable", sans-serif',
    fontSize: 12.5,
    htmlFontSize: 16,
    button: { textTransform: "none", fontWeight: 600 },
  },
  transitions: { create: () => "none" },
  components: {
    MuiButtonBase: {
      defaultProps: { disableRipple: true },
      styleOverrides: {
        root: { "&.Mui-focusVisible": { outline: "2px solid var(--ink)", outlineOffset: 2, zIndex: 1 } },
      },
    },
    MuiButton: {
      defaultProps: { disableElevation: true, variant: "outlined" },
      styleOverrides: {
        root: {
          padding: "7px 12px",
          lineHeight: 1.35,
          fontSize: 12.5,
          color: INK,
          border: "1px solid var(--ink)",
          "&:hover": { background: "var(--raise)" },
          "&.MuiButton-contained": { background: INK, color: "var(--on-ink)", padding: "10px 12px" },
          "&.MuiButton-contained:hover": { background: "var(--ink-soft)" },
          "&.MuiButton-text": { border: 0, textDecoration: "underline", padding: "2px 0", minWidth: 0 },
          "&.Mui-disabled": { color: "var(--soft)", borderColor: "var(--edge)", background: "none" },
        },
      },
    },
    MuiTooltip: {
      styleOverrides: {
        tooltip: {
          background: "var(--ink)",
          color: "var(--on-ink)",
          fontSize: 12.5,
          fontWeight: 400,
          lineHeight: 1.4,
          maxWidth: 280,
          padding: "8px 10px",
        },
      },
    },
    MuiToggleButtonGroup: {
      styleOverrides: { root: { display: "grid", gridAutoFlow: "column", gridAutoColumns: "1fr" } },
    },
    MuiToggleButton: {
      styleOverrides: {
        root: {
          padding: "5px 3px",
          minWidth: 0,
          fontSize: 12.5,
          lineHeight: 1.35,
          textTransform: "none",
          fontWeight: 500,
          color: INK,
          borderColor: "var(--ink)",
          "&.Mui-selected, &.Mui-selected:hover": {
            background: INK,
            color: "var(--on-ink)",
            fontWeight: 600,
          },
        },
      },
    },
    MuiSlider: {
      styleOverrides: {
        root: { color: INK, height: 2, padding: "13px 0", borderRadius: 0 },
        rail: { background: "var(--edge)", opacity: 1 },
        track: { border: 0 },
        thumb: {
          width: 12,
          height: 16,
          borderRadius: 0,
          boxShadow: "none",
          "&:hover, &.Mui-active": { boxShadow: "none" },
          "&.Mui-focusVisible": { boxShadow: "none", outline: "2px solid var(--ink)", outlineOffset: 2 },
          "&::before, &::after": { display: "none" },
        },
        mark: { width: 1, height: 10, background: "var(--soft)", opacity: 1 },
      },
    },
    MuiOutlinedInput: {
      styleOverrides: {
        root: {
          fontSize: 12.5,
          color: INK,
          background: "var(--raise)",
          "& fieldset": { borderColor: "var(--edge)" },
          "&:hover fieldset": { borderColor: "var(--ink)" },
          "&.Mui-focused fieldset": { borderColor: "var(--ink)", borderWidth: 2 },
        },
        input: { padding: "7px 9px", height: "1.4em" },
      },
    },
    MuiInputLabel: { styleOverrides: { root: { color: "var(--soft)", "&.Mui-focused": { color: INK } } } },
    MuiFormHelperText: { styleOverrides: { root: { color: "var(--soft)" } } },
    MuiSelect: { styleOverrides: { icon: { color: INK } } },
    MuiPaper: {
      defaultProps: { elevation: 0 },
      styleOverrides: {
        root: { boxShadow: "none", border: "1px solid var(--ink)", background: "var(--raise)", color: INK },
      },
    },
    MuiDialog: { styleOverrides: { paper: { background: "var(--panel)" } } },
    MuiMenuItem: {
      styleOverrides: {
        root: {
          fontSize: 12.5,
          minHeight: 0,
          "&.Mui-selected, &.Mui-selected:hover": { background: "var(--ink)", color: "var(--on-ink)" },
        },
      },
    },
    MuiLinearProgress: {
      styleOverrides: { root: { height: 4, background: "var(--line)" }, bar: { background: INK } },
    },
    MuiCheckbox: { styleOverrides: { root: { padding: 4, color: INK, "&.Mui-checked": { color: INK } } } },
    MuiFormControlLabel: {
      styleOverrides: {
        root: { marginLeft: -4 },
        label: { fontSize: 12.5, "&.Mui-disabled": { color: "var(--soft)" } },
      },
    },
  },
});
