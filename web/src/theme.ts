/** One table of colours feeds Ant Design, the style sheet and the 3D view. */
import { theme as antTheme, type ThemeConfig } from "antd";

export interface Palette {
  paper: string;
  sheet: string;
  line: string;
  ink: string;
  quiet: string;
  active: string;
  below: string;
  inside: string;
  above: string;
  plum: string;
  scan: string;
  body: string;
  wash: string;
}

export const light: Palette = {
  paper: "#f4f1ea",
  sheet: "#fbf9f5",
  line: "#d8d2c6",
  ink: "#1e2a35",
  quiet: "#5b6670",
  active: "#c93a14",
  below: "#0e7480",
  inside: "#ded8cc",
  above: "#a3560f",
  plum: "#7a3b69",
  scan: "#b4bdb9",
  body: "#d9cfba",
  wash: "#f6e4dc",
};

export const dark: Palette = {
  paper: "#171c21",
  sheet: "#1f262c",
  line: "#3a444d",
  ink: "#ece7dc",
  quiet: "#a4adb5",
  active: "#ff8560",
  below: "#4fb8c4",
  inside: "#4a4a46",
  above: "#e0a05a",
  plum: "#d79ac4",
  scan: "#8d9793",
  body: "#b0a68f",
  wash: "#43302a",
};

export const FONT = "'Public Sans Variable', system-ui, sans-serif";
export const MONO = "'Spline Sans Mono Variable', ui-monospace, monospace";

/** reading: how much larger than usual text is wanted. */
export function antdTheme(p: Palette, isDark: boolean, motion: boolean, reading = 1): ThemeConfig {
  return {
    algorithm: isDark ? antTheme.darkAlgorithm : antTheme.defaultAlgorithm,
    token: {
      colorPrimary: p.active,
      // Lighter under the pointer, white letters on it could not be read.
      colorPrimaryHover: p.active,
      colorPrimaryActive: p.active,
      colorInfo: p.below,
      colorLink: p.active,
      colorTextBase: p.ink,
      colorBgBase: p.sheet,
      colorBgLayout: p.paper,
      colorBgContainer: p.sheet,
      colorBgElevated: p.sheet,
      colorBorder: p.line,
      colorBorderSecondary: p.line,
      colorTextSecondary: p.quiet,
      colorTextDescription: p.quiet,
      colorTextPlaceholder: p.quiet,
      fontFamily: FONT,
      fontFamilyCode: MONO,
      fontSize: 13 * reading,
      borderRadius: 3,
      controlHeight: 30 * reading,
      wireframe: false,
      motion,
    },
    components: {
      // On the light red of the dark bench only dark letters can be read.
      Button: {
        primaryShadow: "none",
        defaultShadow: "none",
        fontWeight: 500,
        primaryColor: isDark ? p.paper : "#ffffff",
      },
    },
  };
}

/** Colours as CSS variables, so that the style sheet names what they mean. */
export function cssVariables(p: Palette): string {
  return Object.entries(p)
    .map(([name, value]) => `--${name}: ${value};`)
    .join(" ");
}

function channel(hex: string, at: number): number {
  const c = Number.parseInt(hex.slice(at, at + 2), 16) / 255;
  return c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4;
}

/** Relative luminance after WCAG 2. */
export function luminance(hex: string): number {
  return 0.2126 * channel(hex, 1) + 0.7152 * channel(hex, 3) + 0.0722 * channel(hex, 5);
}

export function contrast(a: string, b: string): number {
  const [hi, lo] = [luminance(a), luminance(b)].sort((x, y) => y - x) as [number, number];
  return (hi + 0.05) / (lo + 0.05);
}
