import { chakra } from "@chakra-ui/react";

/** A press. `primary` is the one thing to do on a page; `plain` any other; `quiet` reads as a link. */
export const Button = chakra("button", {
  base: {
    display: "inline-flex",
    alignItems: "center",
    justifyContent: "center",
    gap: "2",
    minH: { base: "44px", md: "36px" },
    px: "3",
    fontWeight: 600,
    fontSize: "14px",
    borderRadius: "sm",
    borderWidth: "1px",
    cursor: "pointer",
    whiteSpace: "nowrap",
    _disabled: { opacity: 0.55, cursor: "not-allowed" },
    _focusVisible: { outline: "2px solid", outlineColor: "ink", outlineOffset: "2px" },
  },
  variants: {
    look: {
      primary: { bg: "sulphur", color: "charcoal", borderColor: "charcoal", _dark: { borderColor: "sulphur" } },
      plain: { bg: "card", color: "ink", borderColor: "ink", _hover: { bg: "shade" } },
      soft: { bg: "transparent", color: "ink", borderColor: "line", _hover: { borderColor: "ink" } },
      quiet: {
        minH: "24px",
        px: "0",
        bg: "transparent",
        borderColor: "transparent",
        color: "ink",
        textDecoration: "underline",
        textUnderlineOffset: "3px",
        _hover: { textDecorationThickness: "2px" },
      },
    },
    size: { small: { minH: "30px", px: "2", fontSize: "13px" }, usual: {} },
  },
  defaultVariants: { look: "plain", size: "usual" },
});
