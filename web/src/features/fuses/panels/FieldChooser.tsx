import { Box, chakra } from "@chakra-ui/react";
import { useId, useState } from "react";
import { Button } from "@/ui/Button";
import { Input } from "@/ui/Field";

export type Choice = {
  name: string;
  /** What is put into the words. */
  text: string;
};

/** The path that a piece of words speaks of: `{{ lead.first_name | default: "Hello" }}` of `lead.first_name`. */
const pathOf = (text: string) => /\{\{\s*([\w.]+)/.exec(text)?.[1] ?? "";

const plain = (words: string) => words.toLowerCase().normalize("NFD").replace(/\p{M}/gu, "");

/** Fields that can be put into words: found by name or by what they hold for the lead that is looked at. */
export function FieldChooser({
  choices,
  samples,
  onChoose,
}: {
  choices: readonly Choice[];
  samples: Record<string, string>;
  onChoose: (text: string) => void;
}) {
  const [open, setOpen] = useState(false);
  const [typed, setTyped] = useState("");
  const id = useId();
  const sampleOf = (choice: Choice) => samples[pathOf(choice.text)] ?? "";
  const found = choices.filter((c) => plain(`${c.name} ${sampleOf(c)}`).includes(plain(typed.trim())));
  const choose = (text: string) => {
    setOpen(false);
    setTyped("");
    onChoose(text);
  };
  if (!open) {
    return (
      <Button look="soft" size="small" mb="2" aria-expanded={false} onClick={() => setOpen(true)}>
        Put a field in
      </Button>
    );
  }
  return (
    <Box role="group" aria-label="Put a field in" borderWidth="1px" borderColor="ink" borderRadius="sm" mb="3">
      <Box display="flex" gap="2" p="1.5">
        <Input
          aria-label="Search the fields"
          aria-controls={id}
          placeholder="Search by name, or by what it holds"
          autoFocus
          value={typed}
          onChange={(e) => setTyped(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === "Enter" && found[0]) {
              e.preventDefault();
              choose(found[0].text);
            }
            if (e.key === "Escape") {
              e.stopPropagation();
              setOpen(false);
            }
          }}
        />
        <Button look="quiet" fontSize="13px" fontWeight={400} onClick={() => setOpen(false)}>
          not now
        </Button>
      </Box>
      <chakra.ul id={id} listStyleType="none" maxH="220px" overflowY="auto" borderTopWidth="1px" borderColor="line">
        {found.map((c) => (
          <li key={c.text}>
            <chakra.button
              type="button"
              width="full"
              display="grid"
              gridTemplateColumns="minmax(90px, 40%) 1fr"
              gap="2"
              textAlign="left"
              px="2"
              py="1"
              fontSize="13px"
              cursor="pointer"
              _hover={{ bg: "shade" }}
              _focusVisible={{ bg: "shade" }}
              onClick={() => choose(c.text)}
            >
              <Box as="span" fontWeight={600}>
                {c.name}
              </Box>
              <Box as="span" color="ink2" truncate>
                {sampleOf(c) || "nothing for this lead"}
              </Box>
            </chakra.button>
          </li>
        ))}
        {found.length === 0 && (
          <Box as="li" px="2" py="1" fontSize="13px" color="ink2">
            No field is called that, or holds that.
          </Box>
        )}
      </chakra.ul>
    </Box>
  );
}
