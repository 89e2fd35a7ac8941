import { Box, chakra } from "@chakra-ui/react";
import { type ReactNode, useEffect, useRef } from "react";
import { Button } from "@/ui/Button";

/** What is open, beside the page. Focus goes to it when it opens. */
export function SideSheet({ title, close, wide, children }: { title: string; close: () => void; wide?: boolean; children: ReactNode }) {
  const head = useRef<HTMLHeadingElement>(null);
  useEffect(() => head.current?.focus(), []);
  return (
    <Box
      as="aside"
      aria-label={title}
      width={{ base: "full", lg: wide ? "430px" : "340px" }}
      flexShrink={0}
      bg="card"
      borderLeftWidth={{ base: "0", lg: "1px" }}
      borderTopWidth={{ base: "1px", lg: "0" }}
      borderColor="ink"
      p="4"
      position={{ base: "static", lg: "sticky" }}
      top="49px"
      maxH={{ base: "none", lg: "calc(100vh - 49px)" }}
      overflowY="auto"
    >
      <Box display="flex" justifyContent="space-between" alignItems="baseline" gap="3" mb="3">
        <chakra.h2 ref={head} tabIndex={-1} fontWeight={700} fontSize="16px" _focusVisible={{ outline: "none" }}>
          {title}
        </chakra.h2>
        <Button look="quiet" fontSize="13px" fontWeight={400} onClick={close}>
          Close
        </Button>
      </Box>
      {children}
    </Box>
  );
}

/** What is wrong with the thing that is open, with how to mend it. */
export function FaultsHere({ faults }: { faults: readonly { what: string; mend: string }[] }) {
  if (faults.length === 0) return null;
  return (
    <Box as="ul" listStyleType="none" mb="3">
      {faults.map((f) => (
        <Box as="li" key={f.what} borderLeftWidth="3px" borderColor="cinder" pl="2" mb="2" fontSize="14px">
          <Box color="cinder">{f.what}</Box>
          <Box color="ink2">{f.mend}</Box>
        </Box>
      ))}
    </Box>
  );
}
