import { Box, chakra } from "@chakra-ui/react";
import { type ReactNode, useEffect } from "react";

/** A page's heading row: its name, a word beside it, and what can be done. */
export function PageHead({ title, beside, children }: { title: string; beside?: ReactNode; children?: ReactNode }) {
  useEffect(() => {
    document.title = `${title} · Lit Fuse`;
  }, [title]);
  return (
    <Box display="flex" flexWrap="wrap" alignItems="center" gap="3" mb="3" minH="36px">
      <chakra.h1 fontSize="20px" fontWeight={700} lineHeight={1.25}>
        {title}
      </chakra.h1>
      {beside && (
        <Box color="ink2" fontSize="14px">
          {beside}
        </Box>
      )}
      <Box ml="auto" display="flex" gap="2" flexWrap="wrap">
        {children}
      </Box>
    </Box>
  );
}

export const SectionHead = chakra("h2", { base: { fontSize: "14px", fontWeight: 700, mb: "2" } });

/** A state as a word in a box; colour only helps. */
export const State = chakra("span", {
  base: {
    display: "inline-block",
    fontFamily: "mono",
    fontSize: "12px",
    lineHeight: "18px",
    px: "6px",
    borderWidth: "1px",
    borderRadius: "sm",
    whiteSpace: "nowrap",
  },
  variants: {
    of: {
      whole: { color: "verdigris", borderColor: "verdigris" },
      broken: { color: "cinder", borderColor: "cinder" },
      waiting: { color: "slate", borderColor: "slate" },
      plain: { color: "ink", borderColor: "line" },
    },
  },
  defaultVariants: { of: "plain" },
});
