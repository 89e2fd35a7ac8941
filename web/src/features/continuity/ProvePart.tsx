import { Box } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, Problem, type Schemas, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { Input, Select } from "@/ui/Field";
import { SectionHead, State } from "@/ui/Page";
import { ErrorTold } from "@/ui/Told";
import { dayAndClock, span } from "@/ui/time";
import { useAct } from "@/ui/useAct";
import { proofPlaces } from "./proofPlaces";

/** One press sends a marked test lead down the line; it is followed joint by joint, and shows where the time went. */
export function ProvePart({ formId, may, zone, now }: { formId: string; may: boolean; zone: string; now: number }) {
  const path = { params: { path: { formId } } };
  const proofs = useQuery({
    queryKey: ["proofs", formId],
    queryFn: () => unwrap(api.GET("/api/forms/{formId}/proofs", path)),
    // The line tells when it is proved; meanwhile each joint is looked for.
    refetchInterval: (query) => (query.state.data?.runs[0]?.state === "running" ? 500 : false),
  });
  const [onlyMe, setOnlyMe] = useState(false);
  const prove = useAct(
    (from: Schemas["ProvenFrom"]) => unwrap(api.POST("/api/forms/{formId}/proofs", { ...path, body: { from, onlyMe } })),
    ["proofs", formId],
    ["line", formId],
  );
  const data = proofs.data;
  const last = data?.runs[0];
  const running = last?.state === "running";
  return (
    <Box id="prove" fontSize="14px">
      <SectionHead>Prove it</SectionHead>
      {proofs.error && <ErrorTold error={proofs.error} again={() => void proofs.refetch()} />}
      {may && data && (
        <Box display="flex" gap="2" alignItems="center" flexWrap="wrap" mb="2">
          {data.fromNetwork && (
            <Button size="small" look="primary" disabled={running || prove.isPending} onClick={() => prove.mutate("network")}>
              Prove it from {data.network}
            </Button>
          )}
          <Button
            size="small"
            look={data.fromNetwork ? "soft" : "primary"}
            disabled={running || prove.isPending}
            onClick={() => prove.mutate("here")}
          >
            {data.fromNetwork ? "From here" : "Prove it"}
          </Button>
          <Select
            aria-label="Where it goes"
            width="auto"
            minH="30px"
            py="0"
            value={onlyMe ? "me" : "line"}
            onChange={(e) => setOnlyMe(e.target.value === "me")}
          >
            <option value="line">down the real line, marked as a test</option>
            <option value="me">to my own addresses only</option>
          </Select>
        </Box>
      )}
      {prove.error && <ErrorTold error={prove.error} />}
      {last && <Run run={last} zone={zone} now={now} />}
      {data && may && <Plan key={`${data.afterMend}${data.dailyAt}`} formId={formId} list={data} zone={zone} now={now} />}
    </Box>
  );
}

const marks = { done: "◆", waiting: "◇", halted: "✕", "left-out": "–" } as const;

function Run({ run, zone, now }: { run: Schemas["ProofTold"]; zone: string; now: number }) {
  const places = proofPlaces(run.joints);
  return (
    <Box aria-live="polite" mb="3">
      <Box display="flex" gap="2" alignItems="baseline" flexWrap="wrap">
        <State of={run.state === "proved" ? "whole" : run.state === "halted" ? "broken" : "waiting"}>
          {run.state === "running" ? "on its way" : run.state}
        </State>
        <Box>
          {run.state === "proved" && (
            <>
              {run.networkSeconds !== null && (
                <>
                  <b>{span(run.networkSeconds)}</b> at the network,{" "}
                </>
              )}
              <b>{span(run.ourSeconds ?? 0)}</b> with us
            </>
          )}
          {run.state === "halted" && run.because}
        </Box>
        <Box color="ink2" fontSize="13px">
          {dayAndClock(run.beganAt, now, zone, true)}
          {run.by ? ` by ${run.by}` : ", by itself"}
          {run.onlyMe && ", to own addresses only"}
          {run.leadId && (
            <>
              {" · "}
              <Link to={`/leads/${run.leadId}`}>
                <u>the test lead</u>
              </Link>
            </>
          )}
        </Box>
      </Box>
      <Box as="ol" listStyleType="none" mt="2">
        {run.joints.map((j, i) => {
          const place = places[i];
          return (
            <Box
              as="li"
              // biome-ignore lint/suspicious/noArrayIndexKey: a joint is its place
              key={i}
              display="grid"
              gridTemplateColumns="16px 92px minmax(60px, 1fr) 62px"
              columnGap="2"
              alignItems="center"
              minH="24px"
            >
              <Box color={j.state === "halted" ? "cinder" : j.state === "done" ? "verdigris" : "slate"} role="img" aria-label={j.state}>
                {marks[j.state]}
              </Box>
              <Box truncate title={j.words}>
                {j.name}
              </Box>
              <Box position="relative" height="12px" title={j.words}>
                {place && (
                  <Box
                    position="absolute"
                    left={`${place.from * 100}%`}
                    width={`max(2px, ${(place.to - place.from) * 100}%)`}
                    top="3px"
                    height="6px"
                    bg={j.whose === "press" ? "paper" : j.whose === "network" ? "slate" : "sulphur"}
                    borderWidth="1px"
                    borderColor="ink"
                  />
                )}
                {!place && (
                  <Box fontSize="13px" color={j.state === "halted" ? "cinder" : "ink2"} truncate lineHeight="12px">
                    {j.words}
                  </Box>
                )}
              </Box>
              <Box fontFamily="mono" fontSize="12px" textAlign="right">
                {j.seconds === null ? "" : span(j.seconds)}
              </Box>
            </Box>
          );
        })}
      </Box>
    </Box>
  );
}

// A settings page written as a sentence.
function Plan({ formId, list, zone, now }: { formId: string; list: Schemas["ProofList"]; zone: string; now: number }) {
  const [after, setAfter] = useState(list.afterMend);
  const [at, setAt] = useState(list.dailyAt ?? "");
  const save = useAct(
    () =>
      unwrap(
        api.PUT("/api/forms/{formId}/proofs/plan", {
          params: { path: { formId } },
          body: { afterMend: after, dailyAt: at === "" ? null : at },
        }),
      ),
    ["proofs", formId],
  );
  const changed = after !== list.afterMend || at !== (list.dailyAt ?? "");
  const problem = save.error instanceof Problem ? save.error : null;
  return (
    <Box lineHeight="32px">
      By itself it is proved{" "}
      <Select
        aria-label="After each mend"
        display="inline-block"
        width="auto"
        minH="28px"
        py="0"
        value={after ? "yes" : "no"}
        onChange={(e) => setAfter(e.target.value === "yes")}
      >
        <option value="no">not after a mend</option>
        <option value="yes">after each mend</option>
      </Select>{" "}
      and{" "}
      <Select
        aria-label="Every day"
        display="inline-block"
        width="auto"
        minH="28px"
        py="0"
        value={at === "" ? "no" : "yes"}
        onChange={(e) => setAt(e.target.value === "yes" ? "07:30" : "")}
      >
        <option value="no">not by the clock</option>
        <option value="yes">every day at</option>
      </Select>
      {at !== "" && (
        <Input
          aria-label="At this hour"
          type="time"
          display="inline-block"
          width="104px"
          minH="28px"
          py="0"
          ml="1"
          value={at}
          onChange={(e) => setAt(e.target.value)}
        />
      )}
      {(after || at !== "") && `, to ${list.for ?? "my"}${list.for ? "'s" : ""} own addresses only`}.
      {list.nextAt && !changed && (
        <Box as="span" color="ink2">
          {" "}
          Next {dayAndClock(list.nextAt, now, zone)}.
        </Box>
      )}
      {changed && (
        <Button size="small" ml="2" disabled={save.isPending} onClick={() => save.mutate(undefined)}>
          Keep this
        </Button>
      )}
      {problem && <ErrorTold error={problem} />}
    </Box>
  );
}
