import { createSystem, defaultConfig, defineConfig } from "@chakra-ui/react";

// Named after what a fuse is made of. Sulphur is never text on paper: it is a shape with an ink outline.
const pair = (light: string, dark: string) => ({ value: { base: light, _dark: dark } });

const config = defineConfig({
  globalCss: {
    "html, body": { bg: "paper", color: "ink", fontFamily: "body", fontSize: "15px", lineHeight: 1.45 },
    "*:focus-visible": { outline: "2px solid", outlineColor: "ink", outlineOffset: "2px" },
    "::selection": { bg: "sulphur", color: "charcoal" },
  },
  theme: {
    tokens: {
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

export const system = createSystem(defaultConfig, config);
