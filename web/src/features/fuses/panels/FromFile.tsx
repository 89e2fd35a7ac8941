import { chakra } from "@chakra-ui/react";

/** Takes a fuse's file; reachable by keyboard like a link. */
export function FromFile({ onFile }: { onFile: (text: string) => void }) {
  return (
    <chakra.label
      fontSize="13px"
      textDecoration="underline"
      textUnderlineOffset="3px"
      cursor="pointer"
      css={{ "&:focus-within": { outline: "2px solid currentColor", outlineOffset: "2px" } }}
    >
      From a file
      <chakra.input
        type="file"
        accept=".json,application/json"
        srOnly
        onChange={(e) => {
          const file = e.target.files?.[0];
          e.target.value = "";
          if (file) void file.text().then(onFile);
        }}
      />
    </chakra.label>
  );
}
