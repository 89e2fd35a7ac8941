import { Box } from "@chakra-ui/react";
import { useEffect } from "react";
import { useParams, useSearchParams } from "react-router";
import type { Schemas } from "@/api/client";
import { may, usePerson } from "@/features/accounts/useSession";
import { PageHead } from "@/ui/Page";
import { ErrorTold, Fetching } from "@/ui/Told";
import { BandSheet } from "./BandSheet";
import { DrySheet } from "./DrySheet";
import { marksAfter } from "./dryRun";
import { withNewBand, withNewStep } from "./editing";
import { LitBySheet } from "./LitBySheet";
import { RunSheet } from "./RunSheet";
import { SheetHead } from "./SheetHead";
import { StepSheet } from "./StepSheet";
import { useDryRun } from "./useDryRun";
import { useDraft, useFuse } from "./useFuse";
import { VersionsSheet } from "./VersionsSheet";
import { WrongSheet } from "./WrongSheet";

export function RunSheetPage() {
  const { fuseId = "" } = useParams();
  const fuse = useFuse(fuseId);
  if (fuse.error && !fuse.data) {
    return (
      <Box p="5">
        <PageHead title="Fuse" />
        <ErrorTold error={fuse.error} again={() => void fuse.refetch()} />
      </Box>
    );
  }
  return fuse.data ? (
    <Sheet key={fuseId} whole={fuse.data} />
  ) : (
    <Box p="5">
      <Fetching what="the run sheet" />
    </Box>
  );
}

/** The picture and editor of a fuse, with what is open in a side sheet that has an address of its own. */
function Sheet({ whole }: { whole: Schemas["FuseWhole"] }) {
  const person = usePerson();
  const mayEdit = may(person, "edit-fuses", whole.fuse.clientId);
  const draft = useDraft(whole, mayEdit);
  const [search, setSearch] = useSearchParams();
  const definition = draft.state.present;
  const open = (what: "step" | "band" | "open" | null, id = "") =>
    setSearch((before) => {
      const next = new URLSearchParams(before);
      for (const key of ["step", "band", "open"]) next.delete(key);
      if (what) next.set(what, id);
      return next;
    });
  useSheetKeys(draft, mayEdit, () => open(null));

  const band = definition.bands.find((b) => b.id === search.get("band"));
  const step = definition.bands.flatMap((b) => b.steps).find((s) => s.id === search.get("step"));
  const panel = search.get("open");
  const dry = panel === "dry";
  const run = useDryRun(whole.fuse.id, definition, dry);
  const addStep = (bandId: string, kind: Schemas["AroundStepKind"]) => {
    const made = withNewStep(definition, bandId, kind, { channel: whole.around.channels?.[0]?.key, person: whole.around.people?.[0]?.key });
    draft.act({ type: "edit", to: made.definition });
    open("step", made.stepId);
  };
  const addBand = () => {
    const made = withNewBand(definition);
    draft.act({ type: "edit", to: made.definition });
    open("band", made.bandId);
  };
  const side = { whole, definition, draft, mayEdit, close: () => open(null) };
  return (
    <Box display="flex" flexDirection={{ base: "column", lg: "row" }} flex="1" alignItems="stretch">
      <Box flex="1" minW="0" p={{ base: "3", md: "5" }} pt="4">
        <SheetHead
          whole={whole}
          draft={draft}
          mayEdit={mayEdit}
          openLit={() => open("open", "lit")}
          openWrong={() => open("open", "wrong")}
          openDry={() => open(dry ? null : "open", "dry")}
          dry={dry}
          openVersions={() => open(panel === "versions" ? null : "open", "versions")}
        />
        <RunSheet
          whole={whole}
          definition={definition}
          mayEdit={mayEdit}
          openStep={step?.id}
          openBand={band?.id}
          onStep={(id) => open("step", id)}
          onBand={(id) => open("band", id)}
          onAddStep={addStep}
          onAddBand={addBand}
          marks={dry && run.told ? marksAfter(run.told.moments, run.place ?? run.told.moments.length) : null}
        />
      </Box>
      {step ? (
        <StepSheet key={step.id} step={step} {...side} />
      ) : band ? (
        <BandSheet key={band.id} band={band} {...side} />
      ) : panel === "lit" ? (
        <LitBySheet {...side} />
      ) : panel === "versions" ? (
        <VersionsSheet whole={whole} mayEdit={mayEdit} dirty={draft.dirty} close={() => open(null)} />
      ) : dry ? (
        <DrySheet whole={{ ...whole, definition }} run={run} close={() => open(null)} />
      ) : panel === "wrong" ? (
        <WrongSheet {...side} onBand={(id) => open("band", id)} onStep={(id) => open("step", id)} onLit={() => open("open", "lit")} />
      ) : null}
    </Box>
  );
}

export type SideProps = {
  whole: Schemas["FuseWhole"];
  definition: Schemas["FuseDefinition"];
  draft: ReturnType<typeof useDraft>;
  mayEdit: boolean;
  close: () => void;
};

function useSheetKeys(draft: ReturnType<typeof useDraft>, mayEdit: boolean, close: () => void) {
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const key = event.key.toLowerCase();
      if (event.key === "Escape" && !document.querySelector("[role=dialog]")) close();
      if (!mayEdit || !(event.ctrlKey || event.metaKey)) return;
      if (key === "s") draft.save.mutate();
      else if (key === "z") draft.act({ type: event.shiftKey ? "redo" : "undo" });
      else if (key === "y") draft.act({ type: "redo" });
      else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  });
  useEffect(() => {
    if (!draft.dirty) return;
    const leave = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener("beforeunload", leave);
    return () => window.removeEventListener("beforeunload", leave);
  }, [draft.dirty]);
}
