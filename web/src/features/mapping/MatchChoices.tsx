import { Box } from "@chakra-ui/react";
import { useState } from "react";
import { Button } from "@/ui/Button";
import { Select } from "@/ui/Field";
import type { DraftRow } from "./draft";

const plain = (text: string) =>
  text
    .normalize("NFD")
    .replace(/\p{M}/gu, "")
    .toLowerCase()
    .replace(/[\u2010-\u2015\u2212]/g, "-")
    .replace(/[^\p{L}\p{N}+<]+/gu, " ")
    .trim();

type Props = {
  row: DraftRow;
  answers: string[];
  choices: readonly string[];
  may: boolean;
  onChange: (choices: Record<string, string>) => void;
};

/** Answers whose words are not the field's: which choice is meant. */
export function MatchChoices({ row, answers, choices, may, onChange }: Props) {
  const [open, setOpen] = useState(false);
  const known = new Set(choices.map(plain));
  const strange = answers.filter((a) => !known.has(plain(a)));
  const unmatched = strange.filter((a) => !row.choices[a]);
  if (strange.length === 0) return null;
  return (
    <Box fontSize="13px" mt="1">
      {unmatched.length > 0 && (
        <Box as="span" color="cinder">
          {unmatched.length} {unmatched.length === 1 ? "answer is" : "answers are"} none of the field's choices.{" "}
        </Box>
      )}
      {may && (
        <Button look="quiet" fontSize="13px" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? "Done" : "Say what they mean"}
        </Button>
      )}
      {open &&
        strange.map((answer) => (
          <Box key={answer} display="grid" gridTemplateColumns="1fr 1fr" gap="2" mt="1" alignItems="center">
            <Box overflowWrap="anywhere">“{answer}” is</Box>
            <Select
              aria-label={`${answer} is the choice`}
              minH="28px"
              py="0"
              fontSize="13px"
              value={row.choices[answer] ?? ""}
              onChange={(e) => {
                const { [answer]: _, ...rest } = row.choices;
                onChange(e.target.value ? { ...rest, [answer]: e.target.value } : rest);
              }}
            >
              <option value="">kept as typed</option>
              {choices.map((c) => (
                <option key={c} value={c}>
                  {c}
                </option>
              ))}
            </Select>
          </Box>
        ))}
    </Box>
  );
}
