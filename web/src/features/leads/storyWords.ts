import type { Schemas } from "@/api/client";

type Line = Pick<Schemas["StoryLine"], "kind" | "words" | "person" | "step" | "band" | "fuse">;
export type Mark = "arrived" | "went" | "person" | "waits" | "failed" | "thought";

/** How a kind of line is drawn: by what it means for the lead. */
export function markOf(kind: Schemas["StoryKind"]): Mark {
  switch (kind) {
    case "submitted":
    case "submission-edited":
    case "imported":
    case "visited":
    case "opt-in-confirmed":
    case "consented":
    case "replied":
    case "opted-in":
      return "arrived";
    case "step-done":
    case "text-delivered":
    case "rang":
    case "noticed":
    case "ringing":
      return "went";
    case "taken":
    case "touched":
    case "text-written":
    case "approved":
    case "tagged":
    case "owner-changed":
    case "merged":
    case "split":
    case "regroup-undone":
    case "stage-reached":
    case "step-replayed":
    case "burn-let-go":
    case "burn-run-again":
    case "burn-moved":
    case "talking":
    case "call-ended":
      return "person";
    case "step-waits":
    case "step-retries":
    case "step-sent":
    case "opt-in-asked":
    case "released":
    case "burn-held":
      return "waits";
    case "step-failed":
    case "burn-set-aside":
    case "lead-conflict":
    case "answer-unread":
    case "do-not-contact":
    case "opt-in-expired":
    case "opted-out":
    case "bounced":
      return "failed";
    default:
      return "thought";
  }
}

/** A line of the story in words: what happened, and why or how. */
export function sayLine(line: Line): { what: string; why: string } {
  const who = line.person ?? "Someone";
  const step = line.step ?? "A step";
  const plain = (what: string, why = line.words) => ({ what, why });
  switch (line.kind) {
    case "submitted":
      return plain(`Asked through “${line.words}”`, "");
    case "acknowledged":
      return plain("Kept", line.words);
    case "imported":
      return plain("From a file:", line.words);
    case "outcome-noted":
      return plain("A call ended.", line.words);
    case "record-moved":
      return plain("Their record moved on.", line.words);
    case "visited":
      return plain("Back on the page", line.words);
    case "submission-edited":
      return plain("Sent again", line.words);
    case "lead-made":
      return plain("A new lead:", line.words);
    case "lead-matched":
      return plain("Known already:", line.words);
    case "lead-conflict":
      return plain("Two leads in one:", line.words);
    case "answer-unread":
      return plain("Could not be read.", line.words);
    case "fields-changed":
      return plain("Now:", line.words);
    case "approved":
      return plain(`${who} approved it`, line.words);
    case "consented":
      return plain("Consent:", line.words);
    case "opt-in-asked":
      return plain("Waits for them:", line.words);
    case "opt-in-confirmed":
      return plain("Confirmed:", line.words);
    case "opt-in-expired":
      return plain("Not confirmed:", line.words);
    case "do-not-contact":
      return plain("Do not contact:", line.words);
    case "merged":
    case "split":
    case "regroup-undone":
      return plain(`${who}:`, line.words);
    case "reprocessed":
      return plain("Read again,", line.words);
    case "tagged":
    case "owner-changed":
      return plain(`${who}:`, line.words);
    case "fuse-lit":
      return plain("Fuse lit", line.words);
    case "fuse-not-relit":
      return plain("Fuse", line.words);
    case "band-lit":
      return plain(`Band “${line.band}” lit:`, line.words);
    case "band-passed":
      return plain(`Band “${line.band}” passed by:`, line.words);
    case "step-waits":
      return plain(step, line.words);
    case "step-sent":
      return plain(`${step},`, line.words);
    case "step-done":
      return plain(`${step}:`, line.words);
    case "text-delivered":
      return plain(`${line.step ?? "The text"}:`, line.words);
    case "step-retries":
      return plain(`${step}, again soon:`, line.words);
    case "step-failed":
      return plain(`${step} failed:`, line.words);
    case "step-cancelled":
      return plain(`${step} cancelled:`, line.words);
    case "burn-stopped":
      return plain("The fuse stopped:", line.words);
    case "burn-ended":
      return plain("The fuse has burnt down;", line.words);
    case "taken":
      return plain(`${who} has it`, "");
    case "released":
      return plain(`${who} gave it back`, "");
    case "touched":
      return plain(`${who}:`, line.words);
    case "text-written":
      return plain(`${who} wrote a text`, "");
    case "replied":
      return plain("They wrote back:", line.words);
    case "stage-reached":
      return plain(`${who} set the stage:`, line.words);
    case "field-set":
      return plain("Now:", line.words);
    case "reply-read":
      return plain("Read:", line.words);
    case "fuse-not-lit":
      return plain("Fuse", line.words);
    case "step-instead":
      return plain(`${step},`, line.words);
    case "step-replayed":
      return plain(`${step}:`, line.words);
    case "burn-held":
      return plain("Held for a person:", line.words);
    case "burn-set-aside":
      return plain("The fuse is set aside:", line.words);
    case "burn-let-go":
    case "burn-run-again":
    case "burn-moved":
    case "noticed":
    case "ringing":
    case "ring-passed":
    case "talking":
      return plain("", line.words);
    case "call-ended":
      return plain("The call is over:", line.words);
    case "bounced":
      return plain(`${step}:`, line.words);
    case "answered":
      return plain("A machine answered for them:", line.words);
    case "opted-in":
      return plain("They take messages again:", line.words);
    case "rang":
      return plain(`${step}:`, line.words);
    case "opted-out":
      return plain("They want no texts", line.person ? `, as ${line.person} marked` : `: ${line.words}`);
  }
}
