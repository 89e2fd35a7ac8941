import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, unwrap } from "@/api/client";
import type { SideProps } from "@/features/fuses/model/sheetProps";
import { Button } from "@/ui/Button";
import { Field, Select } from "@/ui/Field";
import { SideSheet } from "@/ui/SideSheet";
import { useNow } from "@/ui/serverClock";
import { ErrorTold, Fetching } from "@/ui/Told";
import { dayAndClock } from "@/ui/time";

const spans = [1, 2, 3, 7, 14, 30, 90];

/** Arming also for who asked before: for how many, and what would go out first. */
export function ArmSheet({ whole, draft, close }: SideProps) {
  const now = useNow(30_000);
  const [days, setDays] = useState(3);
  const fuseId = whole.fuse.id;
  const preview = useQuery({
    queryKey: ["fuse", fuseId, "catch-up", days, whole.revision],
    enabled: !draft.dirty,
    queryFn: () => unwrap(api.GET("/api/fuses/{fuseId}/catch-up", { params: { path: { fuseId }, query: { days } } })),
  });
  const data = preview.data;
  return (
    <SideSheet title="Arm it, also for who asked before" close={close}>
      <Box fontSize="14px" mb="3">
        Armed from now on, only new events light it. Here it is lit as well for leads who asked on its forms before, unless it was lit for
        them since. Who asked too long ago hears nothing: the age limit holds.
      </Box>
      <Field label="Who asked in the last">
        {(ids) => (
          <Select {...ids} value={days} onChange={(e) => setDays(Number(e.target.value))}>
            {spans.map((n) => (
              <option key={n} value={n}>
                {n === 1 ? "day" : `${n} days`}
              </option>
            ))}
          </Select>
        )}
      </Field>
      {draft.dirty && <Box color="ink2">The draft is being saved …</Box>}
      {preview.error && <ErrorTold error={preview.error} />}
      {!data && !preview.error && !draft.dirty && <Fetching what="what that would do" />}
      {data && (
        <Box fontSize="14px" mb="3" role="status">
          <b>{data.lit}</b> of {data.asked} {data.asked === 1 ? "lead" : "leads"} would light it now.
          {data.tooLate > 0 && (
            <Box color="ink2">
              To {data.tooLate}
              {data.lookedAt < data.lit ? ` of the first ${data.lookedAt}` : ""} something is too old by now to be said.
            </Box>
          )}
          {data.first.length > 0 && (
            <>
              <Box mt="3" fontSize="13px" color="ink2">
                This would go out first
              </Box>
              <chakra.ol listStyleType="none">
                {data.first.map((f, i) => (
                  // biome-ignore lint/suspicious/noArrayIndexKey: a fixed list, in order
                  <Box as="li" key={i} borderTopWidth="1px" borderColor="line2" py="1.5">
                    <Box display="flex" justifyContent="space-between" gap="2">
                      <b>{f.step}</b>
                      <Box fontFamily="mono" fontSize="12px" color="ink2" whiteSpace="nowrap">
                        {dayAndClock(f.at, now, whole.around.zone)}
                      </Box>
                    </Box>
                    <Box fontSize="13px" color="ink2">
                      to {f.to ?? "the team"}, about{" "}
                      <chakra.span textDecoration="underline">
                        <Link to={`/leads/${f.leadId}`}>{f.lead}</Link>
                      </chakra.span>
                    </Box>
                    <Box whiteSpace="pre-wrap" overflowWrap="anywhere">
                      {f.words}
                    </Box>
                  </Box>
                ))}
              </chakra.ol>
            </>
          )}
        </Box>
      )}
      <Button
        look="primary"
        disabled={!data || data.lit === 0 || draft.arm.isPending}
        onClick={() => draft.arm.mutate(days, { onSuccess: close })}
      >
        {data && data.lit > 0 ? `Arm it, and light it for ${data.lit}` : "Arm it, and light it"}
      </Button>
    </SideSheet>
  );
}
