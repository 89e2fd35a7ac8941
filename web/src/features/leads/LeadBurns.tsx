import { Box } from "@chakra-ui/react";
import { api, type Schemas, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { SectionHead } from "@/ui/Page";
import { ErrorTold } from "@/ui/Told";
import { clock, day, secondsBetween, span } from "@/ui/time";
import { useAct } from "@/ui/useAct";

type Burn = Schemas["LeadBurn"];
type Act =
  | { burn: string; how: "stop" | "let-go" | "run-again" }
  | { burn: string; how: "skip" | "replay"; step: string }
  | { fuse: string; how: "light" };
type Props = { leadId: string; burns: readonly Burn[]; mayTouch: boolean; now: number; zone: string };

const laneWords = { lead: "to them", team: "to the team", systems: "to systems", silent: "" } as const;

/** Fuses burning for a lead: what is still to come, and what a person may do with it. */
export function LeadBurns({ leadId, burns, mayTouch, now, zone }: Props) {
  const act = useAct(
    async (what: Act): Promise<unknown> => {
      if (what.how === "light") {
        return unwrap(
          api.POST("/api/fuses/{fuseId}/light", { params: { path: { fuseId: what.fuse } }, body: { ids: [leadId], filter: null } }),
        );
      }
      const params = { path: { burnId: what.burn } };
      if (what.how === "stop") return unwrap(api.POST("/api/burns/{burnId}/stop", { params }));
      if (what.how === "let-go") return unwrap(api.POST("/api/burns/{burnId}/let-go", { params }));
      if (what.how === "run-again") return unwrap(api.POST("/api/burns/{burnId}/run-again", { params }));
      if (what.how !== "skip" && what.how !== "replay") return undefined;
      const body = { stepId: what.step };
      return what.how === "skip"
        ? unwrap(api.POST("/api/burns/{burnId}/skip", { params, body }))
        : unwrap(api.POST("/api/burns/{burnId}/replay", { params, body }));
    },
    ["lead", leadId],
  );
  const open = burns.filter((b) => b.hears || b.setAside || b.steps.some((s) => s.status === "failed"));
  const last = burns.filter((b) => !open.includes(b) && b.armed).at(-1);
  if (open.length === 0 && !last) return null;
  return (
    <Box mb="4">
      {open.length > 0 && <SectionHead>Burning</SectionHead>}
      {act.error && <ErrorTold error={act.error} />}
      {open.map((burn) => (
        <BurnItem
          key={burn.id}
          burn={burn}
          mayTouch={mayTouch}
          now={now}
          zone={zone}
          onAct={(what) => act.mutate(what)}
          busy={act.isPending}
        />
      ))}
      {open.length === 0 && last && mayTouch && (
        <Button look="quiet" fontSize="13px" disabled={act.isPending} onClick={() => act.mutate({ fuse: last.fuseId, how: "light" })}>
          Light “{last.fuse.replace(/, v\d+$/, "")}” again
        </Button>
      )}
    </Box>
  );
}

type ItemProps = { burn: Burn; mayTouch: boolean; now: number; zone: string; busy: boolean; onAct: (what: Act) => void };

function BurnItem({ burn, mayTouch, now, zone, busy, onAct }: ItemProps) {
  const waiting = burn.steps.filter((s) => s.status === "waiting");
  const failed = burn.steps.filter((s) => s.status === "failed");
  const cancelled = burn.steps.filter((s) => s.status === "cancelled");
  return (
    <Box borderLeftWidth="3px" borderColor={burn.status === "burning" ? "sulphur" : "line"} pl="3" mb="3" fontSize="14px">
      <Box display="flex" gap="3" alignItems="baseline" flexWrap="wrap">
        <b>{burn.fuse}</b>
        <Box as="span" color="ink2" fontSize="13px">
          {burn.setAside
            ? `set aside: ${burn.setAside}`
            : burn.held
              ? `held: ${burn.held}`
              : burn.status === "listening"
                ? "nothing waits; it listens for a reply"
                : burn.status}
        </Box>
        {mayTouch && burn.setAside && (
          <Button look="quiet" fontSize="13px" disabled={busy} onClick={() => onAct({ burn: burn.id, how: "run-again" })}>
            Run it again
          </Button>
        )}
        {mayTouch && burn.held && (
          <Button look="quiet" fontSize="13px" disabled={busy} onClick={() => onAct({ burn: burn.id, how: "let-go" })}>
            Let it go on
          </Button>
        )}
        {mayTouch && burn.hears && (
          <Button look="quiet" fontSize="13px" ml="auto" disabled={busy} onClick={() => onAct({ burn: burn.id, how: "stop" })}>
            Stop
          </Button>
        )}
      </Box>
      {waiting.map((s) => (
        <Line
          key={s.stepId}
          step={s.step}
          beside={[laneWords[s.lane], s.reason].filter(Boolean).join(" · ")}
          when={when(s.dueAt, now, zone)}
        >
          {mayTouch && (
            <Button
              look="quiet"
              fontSize="13px"
              fontWeight={400}
              disabled={busy}
              aria-label={`Leave out ${s.step}`}
              onClick={() => onAct({ burn: burn.id, how: "skip", step: s.stepId })}
            >
              leave out
            </Button>
          )}
        </Line>
      ))}
      {burn.silences.map((s) => (
        <Line key={s.band} step={s.band} beside="unless they write back before" when={when(s.until, now, zone)} />
      ))}
      {failed.map((s) => (
        <Line key={s.stepId} step={s.step} beside={s.reason ?? "failed"} when="failed" bad>
          {mayTouch && (
            <Button look="quiet" fontSize="13px" disabled={busy} onClick={() => onAct({ burn: burn.id, how: "replay", step: s.stepId })}>
              Do it again
            </Button>
          )}
        </Line>
      ))}
      {cancelled.map((s) => (
        <Line key={s.stepId} step={s.step} beside={s.reason ?? ""} when="" cancelled />
      ))}
    </Box>
  );
}

const when = (at: string, now: number, zone: string) => {
  const ahead = secondsBetween(now, at);
  return `${day(at, now, zone)} ${clock(at, zone, false)}${ahead > 0 ? `, in ${span(ahead)}` : ", now"}`.trim();
};

type LineProps = { step: string; beside: string; when: string; bad?: boolean; cancelled?: boolean; children?: React.ReactNode };

const Line = ({ step, beside, when: at, bad, cancelled, children }: LineProps) => (
  <Box display="flex" columnGap="2" alignItems="baseline" flexWrap="wrap" py="0.5">
    <Box as="span" textDecoration={cancelled ? "line-through" : undefined} color={cancelled ? "ink2" : undefined}>
      {step}
    </Box>
    {at && (
      <Box as="span" fontFamily="mono" fontSize="12px" color={bad ? "cinder" : undefined}>
        {at}
      </Box>
    )}
    <Box as="span" color={bad ? "cinder" : "ink2"} fontSize="13px">
      {beside}
    </Box>
    {children}
  </Box>
);
