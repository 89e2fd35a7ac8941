import { Box, chakra } from "@chakra-ui/react";
import { useEffect } from "react";
import { useParams, useSearchParams } from "react-router";
import type { Schemas } from "@/api/client";
import { may, usePerson } from "@/app/useSession";
import { BacktestSheet } from "@/features/backtests/BacktestSheet";
import { type Side, useBacktest } from "@/features/backtests/useBacktest";
import { BurnsOfFuse } from "@/features/burns/BurnsOfFuse";
import { useBurnCounts } from "@/features/burns/useBurns";
import { LinesOf } from "@/features/continuity/LinesOf";
import { PageHead } from "@/ui/Page";
import { ErrorTold, Fetching } from "@/ui/Told";
import { withNewBand, withNewStep } from "./model/editing";
import { burnStamps, countStamps, dryStamps } from "./model/stamps";
import { useDryRun } from "./model/useDryRun";
import { useDraft, useFuse } from "./model/useFuse";
import { useSheetEdits } from "./model/useSheetEdits";
import { ArmSheet } from "./panels/ArmSheet";
import { BandSheet } from "./panels/BandSheet";
import { DrySheet } from "./panels/DrySheet";
import { LitBySheet } from "./panels/LitBySheet";
import { StepSheet } from "./panels/StepSheet";
import { VersionsSheet } from "./panels/VersionsSheet";
import { WrongSheet } from "./panels/WrongSheet";
import { RunSheet } from "./sheet/RunSheet";
import { SheetHead } from "./sheet/SheetHead";

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
function Sheet({ whole }: { whole: Schemas["FuseDetail"] }) {
  const person = usePerson();
  const mayEdit = may(person, "edit-fuses", whole.fuse.clientId);
  const draft = useDraft(whole, mayEdit);
  const [search, setSearch] = useSearchParams();
  const definition = draft.state.present;
  const open = (what: "step" | "band" | "open" | null, id = "") =>
    setSearch((before) => {
      const next = new URLSearchParams(before);
      for (const key of ["step", "band", "open", "backtest", "side", "mark"]) next.delete(key);
      if (what) next.set(what, id);
      return next;
    });
  useSheetKeys(draft, mayEdit, () => open(null));

  const band = definition.bands.find((b) => b.id === search.get("band"));
  const step = definition.bands.flatMap((b) => b.steps).find((s) => s.id === search.get("step"));
  const panel = search.get("open");
  const dry = panel === "dry";
  const run = useDryRun(whole.fuse.id, definition, dry);
  const past = panel === "backtest";
  const backtest = useBacktest(past ? search.get("backtest") : null);
  const choose = (id: string | null, number?: { side: Side; mark: string }) =>
    setSearch((before) => {
      const next = new URLSearchParams(before);
      for (const [key, value] of [
        ["backtest", id],
        ["side", number?.side],
        ["mark", number?.mark],
      ] as const) {
        if (value) next.set(key, value);
        else next.delete(key);
      }
      return next;
    });
  const burns = panel === "burns";
  const counts = useBurnCounts(whole.fuse.id, burns);
  const stamps =
    dry && run.told
      ? dryStamps(run.told.moments, run.place ?? run.told.moments.length, whole.around.zone)
      : past && backtest.data?.told
        ? countStamps(backtest.data.told)
        : burns && counts.data
          ? burnStamps(counts.data)
          : null;
  const [side, mark] = [search.get("side"), search.get("mark")];
  const addStep = (bandId: string, kind: Schemas["ContextStepKind"]) => {
    const made = withNewStep(definition, bandId, kind, { channel: whole.around.channels?.[0]?.key, person: whole.around.people?.[0]?.key });
    draft.act({ type: "edit", to: made.definition });
    open("step", made.stepId);
  };
  const addBand = () => {
    const made = withNewBand(definition);
    draft.act({ type: "edit", to: made.definition });
    open("band", made.bandId);
  };
  const { edits, said } = useSheetEdits(draft, open);
  const shared = { whole, definition, draft, mayEdit, close: () => open(null) };
  return (
    <Box display="flex" flexDirection={{ base: "column", lg: "row" }} flex="1" alignItems="stretch">
      <Box flex="1" minW="0" p={{ base: "3", md: "5" }} pt="4">
        <SheetHead
          whole={whole}
          draft={draft}
          mayEdit={mayEdit}
          openLit={() => open("open", "lit")}
          openWrong={() => open("open", "wrong")}
          openArm={() => open("open", "arm")}
          openDry={() => open(dry ? null : "open", "dry")}
          dry={dry}
          openBacktest={() => open(past ? null : "open", "backtest")}
          past={past}
          openBurns={() => open(burns ? null : "open", "burns")}
          burns={burns}
          openVersions={() => open(panel === "versions" ? null : "open", "versions")}
        />
        <LinesOf fuse={whole.fuse.id} clientId={whole.fuse.clientId} />
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
          stamps={stamps}
          edits={mayEdit ? edits : null}
        />
        <chakra.div role="status" srOnly>
          {said}
        </chakra.div>
      </Box>
      {step ? (
        <StepSheet key={step.id} step={step} {...shared} />
      ) : band ? (
        <BandSheet key={band.id} band={band} {...shared} />
      ) : panel === "lit" ? (
        <LitBySheet {...shared} />
      ) : panel === "arm" && mayEdit ? (
        <ArmSheet {...shared} />
      ) : panel === "versions" ? (
        <VersionsSheet whole={whole} mayEdit={mayEdit} dirty={draft.dirty} close={() => open(null)} />
      ) : dry ? (
        <DrySheet whole={{ ...whole, definition }} run={run} close={() => open(null)} />
      ) : burns ? (
        <BurnsOfFuse fuseId={whole.fuse.id} counts={counts.data} error={counts.error} zone={whole.around.zone} close={() => open(null)} />
      ) : past ? (
        <BacktestSheet
          whole={whole}
          definition={definition}
          chosen={search.get("backtest")}
          number={(side === "this" || side === "beside" || side === "truth") && mark ? { side, mark } : null}
          choose={choose}
          close={() => open(null)}
        />
      ) : panel === "wrong" ? (
        <WrongSheet {...shared} onBand={(id) => open("band", id)} onStep={(id) => open("step", id)} onLit={() => open("open", "lit")} />
      ) : null}
    </Box>
  );
}

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
