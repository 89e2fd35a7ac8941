import { Box, chakra } from "@chakra-ui/react";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, Problem, tokenFromCookie, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { SectionHead } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { ErrorTold, Fetching } from "@/ui/Told";
import { dayAndClock } from "@/ui/time";
import { useAct } from "@/ui/useAct";

const kilobytes = (bytes: number) => `${Math.max(1, Math.round(bytes / 1024)).toLocaleString("en-GB")} kB`;

/** Files that letters of a client can bring. */
export function Library({ client, zone }: { client: string; zone: string }) {
  const now = useNow(10_000);
  const queries = useQueryClient();
  const [error, setError] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const list = useQuery({
    queryKey: ["library", client],
    queryFn: () => unwrap(api.GET("/api/library", { params: { query: { client } } })),
  });
  const remove = useAct(
    (libraryFileId: string) => unwrap(api.DELETE("/api/library/{libraryFileId}", { params: { path: { libraryFileId } } })),
    ["library"],
    ["fuse"],
  );
  const put = async (file: File) => {
    setBusy(true);
    setError(null);
    try {
      const answer = await fetch(`/api/library?${new URLSearchParams({ client, name: file.name })}`, {
        method: "POST",
        headers: { "Content-Type": "application/octet-stream", "X-XSRF-TOKEN": tokenFromCookie() },
        body: file,
      });
      if (!answer.ok) throw Problem.from(answer.status, await answer.json().catch(() => null));
      await queries.invalidateQueries({ queryKey: ["library"] });
      await queries.invalidateQueries({ queryKey: ["fuse"] });
    } catch (e) {
      setError(e);
    } finally {
      setBusy(false);
    }
  };
  const fault = error instanceof Problem ? (error.fieldError("name") ?? error.fieldError("body")) : null;
  return (
    <Box mb="8">
      <SectionHead>Library</SectionHead>
      <Box fontSize="14px" color="ink2" mb="2">
        Files that letters bring: a price list, a brochure. At most 3 MB each.
      </Box>
      {list.error && <ErrorTold error={list.error} again={() => void list.refetch()} />}
      {list.isPending && <Fetching what="the library" />}
      {list.data?.files.map((f) => (
        <Box key={f.id} display="flex" gap="3" alignItems="baseline" flexWrap="wrap" borderBottomWidth="1px" borderColor="line2" py="2">
          <chakra.a href={`/api/library/${f.id}`} download={f.name} fontWeight={600} textDecoration="underline" textUnderlineOffset="3px">
            {f.name}
          </chakra.a>
          <Box fontSize="13px" color="ink2">
            {kilobytes(f.size)} · put in {dayAndClock(f.madeAt, now, zone)}
            {f.madeBy ? ` by ${f.madeBy}` : ""}
            {f.usedBy.length > 0 ? ` · comes with ${f.usedBy.join(", ")}` : ""}
          </Box>
          <Button
            size="small"
            look="soft"
            ml="auto"
            aria-label={`Take ${f.name} out`}
            disabled={remove.isPending}
            onClick={() => window.confirm(`Take ${f.name} out of the library?`) && remove.mutate(f.id)}
          >
            Take out
          </Button>
        </Box>
      ))}
      <chakra.label display="inline-block" mt="3" fontSize="14px">
        <Box as="span" mr="3">
          Put a file in
        </Box>
        <input
          type="file"
          disabled={busy}
          onChange={(e) => {
            const file = e.target.files?.[0];
            e.target.value = "";
            if (file) void put(file);
          }}
        />
      </chakra.label>
      {fault && (
        <Box role="alert" color="cinder" fontSize="14px">
          {fault}
        </Box>
      )}
      {error !== null && !fault && <ErrorTold error={error} />}
      {remove.error && <ErrorTold error={remove.error} />}
    </Box>
  );
}
