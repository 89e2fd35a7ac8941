import { Box, chakra } from "@chakra-ui/react";
import { useEffect, useRef } from "react";
import { useBlocker } from "react-router";
import { Problem, type Schemas } from "@/api/client";
import { FuseStateWord } from "@/features/fuses/model/FuseStateWord";
import { litByWords, stopWords } from "@/features/fuses/model/sheetLayout";
import type { Draft } from "@/features/fuses/model/useFuse";
import { useHere } from "@/features/fuses/model/useHere";
import { FromFile } from "@/features/fuses/panels/FromFile";
import { MoveBurns } from "@/features/fuses/panels/MoveBurns";
import { Button } from "@/ui/Button";
import { useNow } from "@/ui/serverClock";
import { ErrorTold } from "@/ui/Told";
import { dayOrClock } from "@/ui/time";

const Pressed = chakra("button", {
  base: {
    fontWeight: 700,
    borderBottomWidth: "1px",
    borderStyle: "dotted",
    borderColor: "ink",
    cursor: "pointer",
    textAlign: "left",
    _hover: { borderStyle: "solid" },
  },
});

const relightWords = {
  "when-last-ended": "only when the last has ended",
  always: "each time",
  "once-in-days": "once in",
  once: "never again",
} as const;

type HeadProps = {
  whole: Schemas["FuseDetail"];
  draft: Draft;
  mayEdit: boolean;
  openLit: () => void;
  openWrong: () => void;
  openArm: () => void;
  openDry: () => void;
  dry: boolean;
  openBacktest: () => void;
  past: boolean;
  openBurns: () => void;
  burns: boolean;
  openVersions: () => void;
};

export function SheetHead({
  whole,
  draft,
  mayEdit,
  openLit,
  openWrong,
  openArm,
  openDry,
  dry,
  openBacktest,
  past,
  openBurns,
  burns,
  openVersions,
}: HeadProps) {
  const now = useNow(30_000);
  const definition = draft.state.present;
  const ways = definition.litBy.map((way) => litByWords(way, whole.around));
  const relight = definition.relight ?? "when-last-ended";
  const next = (whole.fuse.armedVersion ?? 0) + 1;
  const canArm = mayEdit && (draft.dirty || whole.fuse.draftDiffers || whole.fuse.state !== "armed");
  const { refused } = draft;
  const stops = (definition.stopOn ?? []).map((s) => stopWords(s, whole.around));
  useEffect(() => {
    document.title = `${definition.name} · Lit Fuse`;
  }, [definition.name]);
  const here = useHere(whole.fuse.id, draft.dirty);
  useLeaving(draft.dirty);
  useNaming(whole.proposedName, draft, mayEdit);
  return (
    <Box mb="3">
      <Box display="flex" flexWrap="wrap" alignItems="center" gap="3" minH="36px">
        {mayEdit ? (
          <chakra.textarea
            aria-label="What the fuse does"
            rows={1}
            resize="none"
            css={{ fieldSizing: "content" }}
            onKeyDown={(e) => {
              if (e.key === "Enter") {
                e.preventDefault();
                e.currentTarget.blur();
              }
            }}
            value={definition.name}
            placeholder={whole.proposedName}
            onBlur={() => {
              // Never without a name: what it does says one.
              if (definition.name.trim() === "")
                draft.act({ type: "edit", to: { ...definition, name: whole.proposedName }, typing: "name" });
            }}
            maxLength={120}
            onChange={(e) => draft.act({ type: "edit", to: { ...definition, name: e.target.value.replaceAll("\n", " ") }, typing: "name" })}
            fontSize="20px"
            fontWeight={700}
            flex="1 1 320px"
            minW="0"
            bg="transparent"
            borderBottomWidth="1px"
            borderColor="transparent"
            _hover={{ borderColor: "line" }}
          />
        ) : (
          <chakra.h1 fontSize="20px" fontWeight={700}>
            {definition.name}
          </chakra.h1>
        )}
        <Box color="ink2" fontSize="14px" whiteSpace="nowrap">
          <FuseStateWord fuse={whole.fuse} />
        </Box>
        {here.length > 0 && (
          <Box role="status" fontSize="13px" whiteSpace="nowrap">
            also here: {here.map((p) => (p.edits ? `${p.name} (editing)` : p.name)).join(", ")}
          </Box>
        )}
        <Box ml="auto" display="flex" gap="2" alignItems="center">
          <Box role="status" fontSize="13px" color="ink2">
            {draft.dirty
              ? draft.refused !== null || draft.moved
                ? "not saved"
                : "saving …"
              : whole.draftAt
                ? `draft of ${dayOrClock(whole.draftAt, now, whole.around.zone)} by ${whole.draftBy ?? "someone"}`
                : whole.armedAt && whole.fuse.state === "armed"
                  ? `armed ${dayOrClock(whole.armedAt, now, whole.around.zone)}${whole.armedBy ? ` by ${whole.armedBy}` : ""}`
                  : ""}
          </Box>
          {mayEdit && (
            <Button look="quiet" fontSize="13px" fontWeight={400} onClick={openArm} aria-label="Arm it also for who asked before">
              also for earlier leads
            </Button>
          )}
          {mayEdit && (
            <Button look="primary" onClick={() => draft.arm.mutate(null)} disabled={!canArm || draft.arm.isPending}>
              {whole.fuse.state === "disarmed" && !draft.dirty && !whole.fuse.draftDiffers
                ? `Arm v${whole.fuse.armedVersion} again`
                : `Arm v${next}`}
            </Button>
          )}
        </Box>
      </Box>
      <Box display="flex" flexWrap="wrap" gap="2" alignItems="center" mt="2">
        {mayEdit && (
          <>
            <Button look="soft" size="small" onClick={() => draft.act({ type: "undo" })} disabled={draft.state.past.length === 0}>
              Undo
            </Button>
            <Button look="soft" size="small" onClick={() => draft.act({ type: "redo" })} disabled={draft.state.future.length === 0}>
              Redo
            </Button>
          </>
        )}
        <MoveBurns fuseId={whole.fuse.id} mayEdit={mayEdit} armed={whole.fuse.state === "armed"} version={whole.fuse.armedVersion ?? 0} />
        <Button look="soft" size="small" onClick={openDry} aria-expanded={dry}>
          Dry run
        </Button>
        <Button look="soft" size="small" onClick={openBacktest} aria-expanded={past}>
          Backtest
        </Button>
        <Button look="soft" size="small" onClick={openBurns} aria-expanded={burns}>
          Burns
        </Button>
        <Button look="soft" size="small" onClick={openVersions}>
          Versions
        </Button>
        <Button look="soft" size="small" onClick={openWrong}>
          What's wrong: {whole.faults.filter((f) => f.blocks).length}
          {whole.faults.some((f) => !f.blocks) && ` · ${whole.faults.filter((f) => !f.blocks).length} to look at`}
        </Button>
        {mayEdit && whole.fuse.draftDiffers && !draft.dirty && (
          <Button
            look="soft"
            size="small"
            onClick={() => window.confirm("Throw the draft away and go back to what is armed?") && draft.drop.mutate()}
          >
            Back to v{whole.fuse.armedVersion}
          </Button>
        )}
        {mayEdit && whole.fuse.state === "armed" && (
          <Button look="soft" size="small" onClick={() => draft.disarm.mutate()} disabled={draft.disarm.isPending}>
            Disarm
          </Button>
        )}
        <chakra.a href={`/api/fuses/${whole.fuse.id}/file`} fontSize="13px" textDecoration="underline" textUnderlineOffset="3px">
          As a file
        </chakra.a>
        {mayEdit && <FromFile onFile={(text) => draft.fromFile.mutate(text)} />}
      </Box>
      {draft.moved && (
        <Box role="alert" borderLeftWidth="4px" borderColor="cinder" pl="3" mt="3">
          {whole.draftBy ?? "Someone else"} saved this fuse after you opened it. Yours cannot be saved over theirs.{" "}
          <Button look="quiet" onClick={draft.loadTheirs}>
            Load theirs; mine is dropped
          </Button>
        </Box>
      )}
      {refused !== null && !draft.moved && (
        <>
          <ErrorTold error={refused} />
          {refused instanceof Problem && refused.code === "cannot-arm" && (
            <Button look="quiet" onClick={openWrong}>
              See what is wrong
            </Button>
          )}
        </>
      )}
      <Box mt="2" color="ink2" lineHeight={1.6} fontSize="15px">
        Lit when{" "}
        <Pressed type="button" onClick={openLit} color="ink">
          {ways.length === 0 ? "nothing lights it yet" : ways.join(", or ")}
        </Pressed>
        {" · relit "}
        <Pressed type="button" onClick={openLit} color="ink">
          {relightWords[relight]}
          {relight === "once-in-days" ? ` ${definition.relightDays ?? 30} days` : ""}
        </Pressed>
        {" · stops when "}
        <Pressed type="button" onClick={openLit} color="ink">
          {stops.length === 0 ? "nothing stops it" : stops.length === 1 ? stops[0] : `${stops.slice(0, -1).join(", ")} or ${stops.at(-1)}`}
        </Pressed>
      </Box>
    </Box>
  );
}

// A name that was proposed goes with what the fuse does; one that a person wrote stays.
function useNaming(proposed: string, draft: Draft, mayEdit: boolean) {
  const before = useRef(proposed);
  const rename = useRef(draft.act);
  rename.current = draft.act;
  useEffect(() => {
    const from = before.current;
    before.current = proposed;
    if (mayEdit && from !== proposed) rename.current({ type: "name", from, to: proposed });
  }, [proposed, mayEdit]);
}

// Leaving with unsaved edits asks once; moving about on the sheet does not.
function useLeaving(dirty: boolean) {
  const blocker = useBlocker(({ currentLocation, nextLocation }) => dirty && currentLocation.pathname !== nextLocation.pathname);
  useEffect(() => {
    if (blocker.state !== "blocked") return;
    if (window.confirm("The draft is not saved. Leave it?")) blocker.proceed();
    else blocker.reset();
  }, [blocker]);
}
