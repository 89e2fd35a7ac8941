import { Box, chakra } from "@chakra-ui/react";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { SectionHead, State } from "@/ui/Page";
import { ErrorTold } from "@/ui/Told";
import { dayAndClock, secondsBetween, span } from "@/ui/time";
import { useAct } from "@/ui/useAct";
import { CutLine } from "./CutLine";
import { DriftPart } from "./DriftPart";
import { JointLine } from "./JointLine";
import { lineWord } from "./lineWords";
import { ProvePart } from "./ProvePart";
import { useLine } from "./useLines";

type Props = { formId: string; may: boolean; zone: string; now: number; clientKey: string | undefined };

/** The line of a form, from its network to the phone: what holds, where it is cut, what mends it, and what has proved it. */
export function LinePart({ formId, may, zone, now, clientKey }: Props) {
  const whole = useLine(formId);
  const path = { params: { path: { formId } } };
  const stale: string[][] = [["line", formId], ["lines"], ["form", formId], ["watch"]];
  const look = useAct(() => unwrap(api.POST("/api/forms/{formId}/line/look", path)), ...stale);
  const rest = useAct((rests: boolean) => unwrap(api.PUT("/api/forms/{formId}/line/rest", { ...path, body: { rests } })), ...stale);
  const line = whole.data?.line;
  if (whole.error) return <ErrorTold error={whole.error} again={() => void whole.refetch()} />;
  if (!whole.data || !line) return null;
  const word = lineWord[line.state];
  const rests = line.restsSince !== null;
  return (
    <Box as="section" aria-label="The line" mb="5" borderTopWidth="1px" borderBottomWidth="1px" borderColor="ink" py="3">
      <Box display="flex" gap="3" alignItems="center" flexWrap="wrap" mb="1">
        <SectionHead mb="0">The line</SectionHead>
        <State of={word.of}>{word.word}</State>
        {rests && (
          <Box fontSize="14px">It is meant to rest, since {dayAndClock(line.restsSince ?? "", now, zone)}: no alarm is raised.</Box>
        )}
        {may && (
          <Box ml="auto" display="flex" gap="3">
            {line.cuts.some((c) => c.joint === "form") && (
              <Button look="quiet" fontSize="13px" fontWeight={400} disabled={rest.isPending} onClick={() => rest.mutate(!rests)}>
                {rests ? "It is not meant to rest" : "It is meant to rest"}
              </Button>
            )}
            <Button size="small" disabled={look.isPending} onClick={() => look.mutate(undefined)}>
              {look.isPending ? "Looking …" : "Look again"}
            </Button>
          </Box>
        )}
      </Box>
      <JointLine line={line} />
      {(look.error || rest.error) && <ErrorTold error={look.error ?? rest.error} />}
      {line.cuts.length > 0 && (
        <Box as="ul" listStyleType="none" mt="3" aria-label="Cuts">
          {line.cuts.map((cut) => (
            <Box as="li" key={cut.cause} borderLeftWidth="4px" borderColor="cinder" bg="card" pl="3" py="1.5" mb="1.5">
              <CutLine cut={cut} now={now} clientKey={clientKey} may={may} />
            </Box>
          ))}
        </Box>
      )}
      <DriftPart formId={formId} findings={whole.data.drift} may={may} />
      <Box display="grid" gridTemplateColumns={{ base: "1fr", xl: "minmax(0, 1.25fr) minmax(0, 1fr)" }} gap="8" mt="3">
        <ProvePart formId={formId} may={may} zone={zone} now={now} />
        <Box fontSize="14px">
          {whole.data.habit && <Box color="ink2">{whole.data.habit}</Box>}
          <Past cuts={whole.data.past} zone={zone} now={now} />
        </Box>
      </Box>
    </Box>
  );
}

function Past({ cuts, zone, now }: { cuts: readonly Schemas["CutPast"][]; zone: string; now: number }) {
  const over = cuts.filter((c) => c.to !== null);
  if (over.length === 0) return null;
  return (
    <chakra.details mt="2">
      <chakra.summary cursor="pointer">
        {over.length === 1 ? "One cut before" : `${over.length} cuts before`}, {sum(over)} in all
      </chakra.summary>
      <Box as="ul" listStyleType="none" mt="1">
        {over.map((c) => (
          <Box as="li" key={`${c.from}${c.cause}`} display="grid" gridTemplateColumns="112px 1fr" gap="3" py="0.5">
            <Box fontFamily="mono" fontSize="12px" color="ink2">
              {dayAndClock(c.from, now, zone)}
            </Box>
            <Box>
              {c.cause}{" "}
              <Box as="span" color="ink2">
                for {span(secondsBetween(c.from, c.to ?? now))}
                {c.came > 0 ? `; ${c.came} ${c.came === 1 ? "submission" : "submissions"} came meanwhile` : "; nothing came meanwhile"}
                {c.leads.length > 0 && ": "}
                {c.leads.map((lead, i) => (
                  <span key={lead.id}>
                    {i > 0 && ", "}
                    <Link to={`/leads/${lead.id}`}>
                      <u>{lead.name}</u>
                    </Link>
                  </span>
                ))}
                {c.came > c.leads.length && c.leads.length > 0 && " …"}
              </Box>
            </Box>
          </Box>
        ))}
      </Box>
    </chakra.details>
  );
}

const sum = (cuts: readonly Schemas["CutPast"][]) => span(cuts.reduce((all, c) => all + secondsBetween(c.from, c.to ?? c.from), 0));
