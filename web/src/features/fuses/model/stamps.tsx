import { Box } from "@chakra-ui/react";
import type { ReactNode } from "react";
import type { Schemas } from "@/api/client";
import { clock } from "@/ui/time";
import { type Mark, marksAfter } from "./dryRun";

/** What is stamped on the run sheet: on bands, on steps, and whether a step was reached at all. */
export type Stamps = { band: (id: string) => ReactNode; step: (id: string) => ReactNode; reached: (id: string) => boolean };

function Line({ colour, children }: { colour: string; children: ReactNode }) {
  return (
    <Box as="span" display="block" fontFamily="mono" fontSize="12px" lineHeight="16px" color={colour}>
      {children}
    </Box>
  );
}

const colours = { whole: "verdigris", broken: "cinder", waiting: "slate", plain: "ink2" } as const;

// A word and a clock, as a postmark.
const postmark = (mark: Mark | undefined, zone: string, none: string) =>
  mark ? (
    <Line colour={colours[mark.of]}>
      ◆ {mark.word} {clock(mark.at, zone)}
    </Line>
  ) : (
    <Line colour="ink2">{none}</Line>
  );

/** What the first so many moments of a dry run have made of bands and steps. */
export function dryStamps(moments: readonly Schemas["DryMoment"][], count: number, zone: string): Stamps {
  const marks = marksAfter(moments, count);
  return {
    band: (id) => postmark(marks.bands.get(id), zone, "not lit"),
    step: (id) => postmark(marks.steps.get(id), zone, "not yet"),
    reached: (id) => marks.steps.has(id),
  };
}

/** How many leads of a backtest each band and step came to. */
export function countStamps(told: Schemas["BacktestTold"]): Stamps {
  const steps = new Map(told.this.steps.map((s) => [s.id, s]));
  const bands = new Map(told.this.bands.map((b) => [b.id, b]));
  return {
    band: (id) => <Line colour="ink2">{bands.has(id) ? `${bands.get(id)?.leads} of ${told.leads} leads` : "new since"}</Line>,
    step: (id) => {
      const of = steps.get(id);
      if (!of) return <Line colour="ink2">new since</Line>;
      const rest = [
        of.waited > 0 && `${of.waited} wait`,
        of.cancelled > 0 && `${of.cancelled} cancelled`,
        of.failed > 0 && `${of.failed} fail`,
      ];
      return (
        <>
          <Line colour="verdigris">◆ {of.sent}</Line>
          {rest.some(Boolean) && <Line colour="ink2">{rest.filter(Boolean).join(" · ")}</Line>}
        </>
      );
    },
    reached: (id) => (steps.get(id)?.sent ?? 0) > 0,
  };
}

/** What a fuse's burns of the last days have come to. */
export function burnStamps(counts: Schemas["BurnCounts"]): Stamps {
  const steps = new Map(counts.steps.map((s) => [s.stepId, s]));
  const bands = new Map(counts.bands.map((b) => [b.bandId, b]));
  return {
    band: (id) => (
      <Line colour="ink2">
        entered in {bands.get(id)?.burns ?? 0} of {counts.lit}
      </Line>
    ),
    step: (id) => {
      const of = steps.get(id);
      const rest =
        of && [of.waiting > 0 && `${of.waiting} wait`, of.cancelled > 0 && `${of.cancelled} cancelled`].filter(Boolean).join(" · ");
      return (
        <>
          <Line colour="verdigris">◆ {of?.sent ?? 0}</Line>
          {rest ? <Line colour="ink2">{rest}</Line> : null}
          {of && of.failed > 0 ? <Line colour="cinder">▲ {of.failed} failed</Line> : null}
        </>
      );
    },
    reached: (id) => (steps.get(id)?.sent ?? 0) > 0,
  };
}
