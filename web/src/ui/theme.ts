import { createSystem, defaultBaseConfig, defineConfig } from "@chakra-ui/react";

// The steps of the scale in which distances and sizes are told: quarters of the root's type.
const steps = Object.fromEntries(
  [0.5, 1, 1.5, 2, 2.5, 3, 3.5, 4, 5, 6, 7, 8, 9, 10, 11, 12, 14, 16, 20, 24].map((n) => [n, { value: `${n / 4}rem` }]),
);

// Named after what a fuse is made of. Sulphur is never text on paper: it is a shape with an ink outline.
const pair = (light: string, dark: string) => ({ value: { base: light, _dark: dark } });

// Built on the library's utilities alone: its stock tokens, recipes and rules for every element would have to be read,
// put into variables and weighed against each element on every page, and none of them is used here.
const config = defineConfig({
  preflight: true,
  cssVarsPrefix: "chakra",
  cssVarsRoot: ":where(html)",
  globalCss: {
    html: { "--global-font-mono": "fonts.mono", "--global-font-body": "fonts.body", "--global-color-border": "colors.border" },
    "*::placeholder": { color: "fg.muted" },
    "html, body": { bg: "paper", color: "ink", fontFamily: "body", fontSize: "15px", lineHeight: 1.45 },
    "*:focus-visible": { outline: "2px solid", outlineColor: "ink", outlineOffset: "2px" },
    "::selection": { bg: "sulphur", color: "charcoal" },
  },
  theme: {
    breakpoints: { sm: "480px", md: "768px", lg: "1024px", xl: "1280px" },
    tokens: {
      spacing: steps,
      sizes: { ...steps, full: { value: "100%" } },
      fonts: {
        body: { value: "'Atkinson Hyperlegible Next Variable', system-ui, sans-serif" },
        heading: { value: "'Atkinson Hyperlegible Next Variable', system-ui, sans-serif" },
        mono: { value: "'JetBrains Mono Variable', ui-monospace, monospace" },
      },
      radii: { sm: { value: "4px" }, md: { value: "4px" }, lg: { value: "4px" } },
      colors: {
        charcoal: { value: "#1D2021" },
        saltpetre: { value: "#EFF1EC" },
        stripLine: { value: "#34393A" },
        stripMuted: { value: "#A3ABAA" },
        stripCinder: { value: "#FF9A8A" },
      },
    },
    semanticTokens: {
      colors: {
        paper: pair("#EFF1EC", "#151718"),
        card: pair("#FAFBF7", "#1D2021"),
        shade: pair("#E6EAE3", "#191C1D"),
        ink: pair("#1D2021", "#EBEEE6"),
        ink2: pair("#565C5E", "#A3ABAA"),
        line: pair("#D3D8D0", "#34393A"),
        line2: pair("#E3E7E0", "#292D2E"),
        sulphur: pair("#B9CC2E", "#C9DC45"),
        verdigris: pair("#176858", "#5CBDA9"),
        cinder: pair("#A83326", "#F27460"),
        slate: pair("#56626C", "#95A2AE"),
        bg: { DEFAULT: pair("#EFF1EC", "#151718"), panel: pair("#FAFBF7", "#1D2021"), muted: pair("#E6EAE3", "#191C1D") },
        fg: { DEFAULT: pair("#1D2021", "#EBEEE6"), muted: pair("#565C5E", "#A3ABAA"), error: pair("#A83326", "#F27460") },
        border: { DEFAULT: pair("#D3D8D0", "#34393A") },
      },
    },
  },
});

export const system = createSystem(defaultBaseConfig, config);
