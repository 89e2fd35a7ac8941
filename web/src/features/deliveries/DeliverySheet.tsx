import { Box, chakra } from "@chakra-ui/react";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "@/api/client";
import { may, usePerson } from "@/app/useSession";
import { Button } from "@/ui/Button";
import { Raw } from "@/ui/Copy";
import { State } from "@/ui/Page";
import { SideSheet } from "@/ui/SideSheet";
import { useNow } from "@/ui/serverClock";
import { ErrorTold, Fetching } from "@/ui/Told";
import { dayAndClock, secondsBetween, span } from "@/ui/time";
import { useAct } from "@/ui/useAct";
import { AttemptLine } from "./AttemptLine";
import { useDelivery } from "./useDeliveries";
import { laidOut, standing } from "./words";

/** One delivery with every attempt: what was sent, what came back, how long it took and why it ended so. */
export function DeliverySheet({ id, close, zone }: { id: string; close: () => void; zone: string }) {
  const person = usePerson();
  const now = useNow(5000);
  const found = useDelivery(id);
  const again = useAct(
    () => unwrap(api.POST("/api/deliveries/replay", { body: { ids: [id], filter: null, justCount: false } })),
    ["deliveries"],
    ["lead"],
  );
  const giveUp = useAct(
    () => unwrap(api.POST("/api/deliveries/{deliveryId}/give-up", { params: { path: { deliveryId: id } } })),
    ["deliveries"],
    ["lead"],
  );
  const error = again.error ?? giveUp.error;
  const d = found.data;
  const is = d && standing(d.row);
  return (
    <SideSheet title={d ? (d.row.step ?? d.row.what) : "Delivery"} close={close} wide>
      {found.error && <ErrorTold error={found.error} again={() => void found.refetch()} />}
      {found.isPending && <Fetching what="the delivery" />}
      {d && is && (
        <>
          <Box display="flex" gap="3" alignItems="baseline" flexWrap="wrap">
            <State of={is.of}>{is.word}</State>
            <Box fontSize="14px">
              {d.row.what} for{" "}
              <chakra.span textDecoration="underline" textUnderlineOffset="3px">
                <Link to={`/leads/${d.row.leadId}`}>{d.row.lead}</Link>
              </chakra.span>
              , through {d.row.connection}
            </Box>
          </Box>
          <Box fontSize="14px" mt="1" color={is.of === "broken" ? "cinder" : "ink"}>
            {d.row.reason}
          </Box>
          <AttemptLine madeAt={d.row.madeAt} attempts={d.attempts} row={d.row} now={now} />
          <Box as="dl" fontSize="13px" mb="3">
            <Pair label="decided">
              {dayAndClock(d.row.madeAt, now, zone, true)}
              {d.row.fuse ? `, by ${d.row.fuse}` : ", by hand"}
            </Pair>
            {d.row.sentAt && <Pair label="delivered">{span(secondsBetween(d.row.madeAt, d.row.sentAt))} after</Pair>}
            <Pair label="key" mono>
              {d.key}
            </Pair>
            {d.reference && (
              <Pair label="their id" mono>
                {d.reference}
              </Pair>
            )}
          </Box>
          {may(person, "edit-sources") && (
            <Box display="flex" gap="2" mb="4" flexWrap="wrap">
              {(d.row.status === "failed" || (d.row.status === "done" && d.row.lane !== "lead")) && (
                <Button
                  look={d.row.status === "failed" ? "primary" : "soft"}
                  size="small"
                  disabled={again.isPending}
                  onClick={() =>
                    (d.row.status === "failed" || window.confirm("It was taken already. Send it again, as another thing?")) &&
                    again.mutate()
                  }
                >
                  Send it again
                </Button>
              )}
              {d.row.status === "due" && (
                <Button size="small" look="soft" disabled={giveUp.isPending} onClick={() => giveUp.mutate()}>
                  Give it up
                </Button>
              )}
            </Box>
          )}
          {error && <ErrorTold error={error} />}
          {d.attempts.length === 0 && (
            <Box fontSize="14px" color="ink2">
              It has not been tried yet.
            </Box>
          )}
          {[...d.attempts].reverse().map((a) => (
            <Attempt key={`${a.number} ${a.beganAt}`} attempt={a} zone={zone} now={now} />
          ))}
        </>
      )}
    </SideSheet>
  );
}

function Pair({ label, mono, children }: { label: string; mono?: boolean; children: React.ReactNode }) {
  return (
    <Box display="grid" gridTemplateColumns="64px 1fr" gap="3">
      <Box as="dt" color="ink2">
        {label}
      </Box>
      <Box as="dd" overflowWrap="anywhere" {...(mono ? { fontFamily: "mono", fontSize: "12px" } : {})}>
        {children}
      </Box>
    </Box>
  );
}

function Attempt({ attempt: a, zone, now }: { attempt: Schemas["DeliveryAttemptTold"]; zone: string; now: number }) {
  return (
    <Box as="section" aria-label={`Attempt ${a.number}`} borderTopWidth="1px" borderColor="line" pt="2" pb="3">
      <Box display="flex" gap="3" alignItems="baseline" flexWrap="wrap" fontSize="14px">
        <Box fontWeight={600}>Attempt {a.number}</Box>
        <Box color="ink2" fontFamily="mono" fontSize="12px">
          {dayAndClock(a.beganAt, now, zone, true)}, took {span(a.tookMs / 1000)}
        </Box>
      </Box>
      <Box fontSize="14px" color={a.status === "done" ? "ink" : "cinder"}>
        {a.reason}
      </Box>
      {a.exchanges.length === 0 && (
        <Box fontSize="13px" color="ink2">
          What was said was not kept.
        </Box>
      )}
      {a.exchanges.map((e, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: they are what was said, in the order in which it was said
        <Box key={i} mt="2">
          <Box fontFamily="mono" fontSize="12px" fontWeight={700} overflowWrap="anywhere">
            {e.asked}
          </Box>
          <Box fontFamily="mono" fontSize="12px" color="ink2">
            {Object.entries(e.headers).map(([name, value]) => (
              <Box key={name} overflowWrap="anywhere">
                {name}: {value}
              </Box>
            ))}
          </Box>
          {e.sent && <Raw text={laidOut(e.sent)} />}
          <Box fontFamily="mono" fontSize="12px" mt="1" fontWeight={700} color={e.status >= 200 && e.status < 400 ? "verdigris" : "cinder"}>
            {e.status > 0 ? `answered ${e.status}` : "no answer"} in {span(e.tookMs / 1000)}
          </Box>
          {e.answer && <Raw text={laidOut(e.answer)} />}
        </Box>
      ))}
    </Box>
  );
}
