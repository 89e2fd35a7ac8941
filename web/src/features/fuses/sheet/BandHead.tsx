import { type DragEvent, memo, type ReactNode, useState } from "react";
import type { Drop } from "@/features/fuses/model/moving";
import type { SentencePart, StepKind } from "@/features/fuses/model/sheetLayout";
import { litTimes } from "@/features/fuses/model/words";
import { AddStep } from "@/features/fuses/panels/AddStep";
import { dragged } from "./Ticket";
import "./sheet.css";

type BandHeadProps = {
  id: string;
  name: string;
  /** When the band is entered, in parts, as one text, so that an equal one is not drawn again. */
  sentence: string;
  aside: string;
  kinds: readonly StepKind[];
  open: boolean;
  faulty: boolean;
  /** How often it was lit in 30 days; not known of a fuse that was never armed. */
  lit: number | null;
  onOpen: (id: string) => void;
  /** A step is let go on the band: it keeps its moment. */
  onDrop: ((stepId: string, bandId: string, drop: Drop) => void) | null;
  stamp: ReactNode;
  onAdd: ((bandId: string, kind: StepKind) => void) | null;
  clip: string | undefined;
  onPaste: (bandId: string) => void;
};

/** When a band is entered, as a sentence, and what came of it. */
export const BandHead = memo(function BandHead(props: BandHeadProps) {
  const { id, name, sentence, aside, open, faulty, onDrop, stamp, onAdd } = props;
  const [over, setOver] = useState(false);
  const dropping = onDrop && {
    onDragOver: (e: DragEvent) => {
      if (!e.dataTransfer.types.includes(dragged)) return;
      e.preventDefault();
      setOver(true);
    },
    onDragLeave: () => setOver(false),
    onDrop: (e: DragEvent) => {
      e.preventDefault();
      setOver(false);
      const stepId = e.dataTransfer.getData(dragged);
      if (stepId) onDrop(stepId, id, null);
    },
  };
  return (
    <div className="band-head" data-over={over || undefined} {...dropping}>
      <h2>
        <button type="button" onClick={() => props.onOpen(id)} aria-expanded={open}>
          {(JSON.parse(sentence) as SentencePart[]).map((part, i) =>
            // biome-ignore lint/suspicious/noArrayIndexKey: parts of one sentence, in order
            part.strong ? <b key={i}>{part.text}</b> : part.text,
          )}
        </button>
      </h2>
      {aside && <span className="aside">{aside}</span>}
      {faulty && <span className="mend">▲ to mend</span>}
      {stamp}
      {onAdd && (
        <AddStep band={name} kinds={props.kinds} onAdd={(kind) => onAdd(id, kind)} clip={props.clip} onPaste={() => props.onPaste(id)} />
      )}
      {props.lit !== null && !stamp && <span className="lit">{litTimes(props.lit)} in 30 days</span>}
    </div>
  );
});
