import { Box } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { SectionHead } from "@/ui/Page";
import { ErrorTold, Fetching } from "@/ui/Told";
import { useAct } from "@/ui/useAct";

/** Offers to put earlier submissions through the map as it is now, and shows first what that would change. */
export function ReprocessPanel({ whole }: { whole: Schemas["MapDetail"] }) {
  const path = { params: { path: { formId: whole.formId } } };
  const job = whole.reprocessing;
  const running = job?.status === "running";
  const preview = useQuery({
    queryKey: ["form", whole.formId, "again", String(whole.version), String(running)],
    enabled: whole.map !== null && whole.processed > 0 && !running,
    queryFn: () =>
      unwrap(
        api.POST("/api/forms/{formId}/reprocess/preview", {
          ...path,
          body: { rows: whole.map?.rows ?? [], locale: whole.map?.locale ?? null },
        }),
      ),
  });
  const start = useAct(() => unwrap(api.POST("/api/forms/{formId}/reprocess", path)), ["form", whole.formId]);
  const cancel = useAct(() => unwrap(api.POST("/api/forms/{formId}/reprocess/cancel", path)), ["form", whole.formId]);
  const error = start.error ?? cancel.error ?? preview.error;
  if (running && job) {
    return (
      <Box bg="card" borderLeftWidth="4px" borderColor="slate" p="3" mb="4" role="status">
        <b>Going through earlier submissions again:</b> {job.done} of {job.total}, {changed(job.changed)}.
        <Box height="4px" bg="line" my="2">
          <Box height="4px" bg="ink" width={`${job.total === 0 ? 100 : (100 * job.done) / job.total}%`} />
        </Box>
        <Button size="small" disabled={cancel.isPending} onClick={() => cancel.mutate()}>
          Stop it here
        </Button>
      </Box>
    );
  }
  const told_ = preview.data;
  if (preview.isPending && whole.map !== null && whole.processed > 0) return <Fetching what="what this map would change" />;
  if (!told_ || told_.leadsChanged === 0)
    return job?.status === "done" ? (
      <Box fontSize="14px" color="ink2" mb="4">
        Earlier submissions went through this map: {changed(job.changed)}.
      </Box>
    ) : null;
  return (
    <Box bg="card" borderLeftWidth="4px" borderColor="sulphur" p="3" mb="4">
      <SectionHead>
        {told_.leadsChanged} {told_.leadsChanged === 1 ? "lead" : "leads"} would change
      </SectionHead>
      <Box fontSize="14px">
        {told_.read < told_.total ? `Of the newest ${told_.read} of ${told_.total}` : `${told_.total}`} earlier submissions were read
        otherwise than this map reads them. Processing them again mends the leads; it lights no fuse and sends nothing.
      </Box>
      <Box display="flex" gap="4" flexWrap="wrap" my="2" fontSize="14px">
        {told_.fields.map((f) => (
          <Box key={f.field}>
            <b>{f.label}</b> {f.leads}
          </Box>
        ))}
      </Box>
      <Box as="ul" listStyleType="none" fontSize="13px" maxH="180px" overflowY="auto" mb="2">
        {told_.examples.slice(0, 8).map((e) => (
          <Box as="li" key={e.leadId} py="2px">
            <Link to={`/leads/${e.leadId}`}>
              <u>{e.name}</u>
            </Link>{" "}
            {e.changes.map((c) => `${c.field.replaceAll("_", " ")}: ${c.before ?? "empty"} → ${c.after ?? "empty"}`).join("; ")}
          </Box>
        ))}
      </Box>
      <Button disabled={start.isPending} onClick={() => start.mutate()}>
        Process them again
      </Button>
      {error && <ErrorTold error={error} />}
    </Box>
  );
}

const changed = (leads: number) => (leads === 1 ? "1 lead changed" : `${leads} leads changed`);
