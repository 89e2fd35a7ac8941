import { Box } from "@chakra-ui/react";
import { type FormEvent, type RefObject, useState } from "react";
import { Problem, type Schemas } from "@/api/client";
import { Button } from "@/ui/Button";
import { Field, TextArea } from "@/ui/Field";
import { SectionHead } from "@/ui/Page";
import { ErrorTold } from "@/ui/Told";
import { useTextSize } from "./useTextSize";
import type { useTouches } from "./useTouches";

type TextWriterProps = {
  whole: Schemas["LeadDetail"];
  box: RefObject<HTMLTextAreaElement | null>;
  text: ReturnType<typeof useTouches>["text"];
};

/** A place to write them a text; what goes out is the first touch. */
export function TextWriter({ whole, box, text }: TextWriterProps) {
  const [words, setWords] = useState("");
  const size = useTextSize(words);
  const error = text.error instanceof Problem ? text.error.fieldError("words") : null;
  const send = (event: FormEvent) => {
    event.preventDefault();
    text.mutate(words, { onSuccess: () => setWords("") });
  };
  if (!whole.canText) {
    return (
      <Box mt="5">
        <SectionHead>Write a text</SectionHead>
        <Box color="ink2" fontSize="14px">
          Not possible: {whole.cannotTextBecause}.
        </Box>
      </Box>
    );
  }
  return (
    <Box mt="5">
      <form onSubmit={send}>
        <Field
          label="Write a text"
          error={error}
          hint={hintOf(whole, text.isSuccess && !words)}
          aside={
            <Box fontFamily="mono" fontSize="12px">
              {size ? `${size.units} · ${size.segments === 1 ? "1 segment" : `${size.segments} segments`}` : ""}
            </Box>
          }
        >
          {(ids) => <TextArea {...ids} ref={box} rows={3} value={words} onChange={(e) => setWords(e.target.value)} />}
        </Field>
        {text.error && !error ? <ErrorTold error={text.error} /> : null}
        <Button
          type="submit"
          look={whole.lead.takenBy && !whole.lead.firstTouchAt ? "primary" : "plain"}
          disabled={text.isPending || words.trim() === ""}
        >
          {text.isPending ? "Sending …" : sendWords(whole)}
        </Button>
      </form>
    </Box>
  );
}

// What keeps it from going out now, or what became of the one before.
function hintOf(whole: Schemas["LeadDetail"], sent: boolean): string | null {
  if (whole.heldAt) return "Everything is held for this client: it goes out once that is let go on.";
  if (whole.textsOpenAt) return `Outside their send hours: it ${whole.cannotTextBecause}.`;
  return sent ? "Handed to the carrier; the story tells what became of it." : null;
}

const sendWords = (whole: Schemas["LeadDetail"]) =>
  whole.heldAt ? "Send once let go on" : whole.textsOpenAt ? "Send when hours open" : "Send the text";
