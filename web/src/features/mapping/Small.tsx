import { chakra } from "@chakra-ui/react";

/** A choice that stands in a line of words. */
export const Small = chakra("select", {
  base: {
    minH: "34px",
    maxW: "270px",
    px: "2",
    bg: "transparent",
    color: "ink",
    fontSize: "13px",
    borderWidth: "1px",
    borderColor: "line",
    borderRadius: "sm",
    cursor: "pointer",
    _hover: { borderColor: "ink" },
    _focusVisible: { outline: "2px solid", outlineColor: "ink", outlineOffset: "1px" },
  },
});
