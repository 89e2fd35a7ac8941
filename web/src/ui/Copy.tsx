import { Box, chakra } from "@chakra-ui/react";
import { useState } from "react";
import { Button } from "./Button";

/** Text as it is, in a box of its own that scrolls. */
export const Raw = ({ text, maxH = "260px" }: { text: string; maxH?: string }) => (
  <chakra.pre
    tabIndex={0}
    role="group"
    aria-label="Text as it is"
    fontFamily="mono"
    fontSize="12px"
    whiteSpace="pre-wrap"
    overflowWrap="anywhere"
    maxH={maxH}
    overflowY="auto"
    bg="card"
    borderWidth="1px"
    borderColor="line2"
    borderRadius="sm"
    p="2"
  >
    {text}
  </chakra.pre>
);

/** Copies a text, and says whether that worked. */
export function Copy({ text, label }: { text: string; label: string }) {
  const [said, setSaid] = useState("");
  const copy = () =>
    navigator.clipboard.writeText(text).then(
      () => setSaid("copied"),
      () => setSaid("the browser did not allow it; select the text and copy it by hand"),
    );
  return (
    <Box display="inline-flex" gap="3" alignItems="center">
      <Button size="small" onClick={() => void copy()}>
        {label}
      </Button>
      <Box role="status" fontSize="13px" color="ink2">
        {said}
      </Box>
    </Box>
  );
}

/** Something to be pasted elsewhere: the text, and a press that copies it. */
export function ToPaste({ text, label, maxH }: { text: string; label: string; maxH?: string }) {
  return (
    <Box mb="3">
      <Raw text={text} maxH={maxH} />
      <Box mt="2">
        <Copy text={text} label={label} />
      </Box>
    </Box>
  );
}
