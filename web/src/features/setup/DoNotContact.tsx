import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, Problem, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { Field, Input, TextArea } from "@/ui/Field";
import { SectionHead } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { ErrorTold } from "@/ui/Told";
import { dayAndClock } from "@/ui/time";
import { useAct } from "@/ui/useAct";

/** Addresses that nobody may write to or ring, whatever form they come with. */
export function DoNotContact({ client, zone }: { client: string; zone: string }) {
  const now = useNow(10_000);
  const [typed, setTyped] = useState("");
  const [reason, setReason] = useState("");
  const [q, setQ] = useState("");
  const list = useQuery({
    queryKey: ["do-not-contact", client, q],
    placeholderData: (before) => before,
    queryFn: () => unwrap(api.GET("/api/do-not-contact", { params: { query: { client, q: q || undefined } } })),
  });
  const add = useAct(
    (addresses: string) => unwrap(api.POST("/api/do-not-contact", { body: { client, addresses, reason: reason || null } })),
    ["do-not-contact"],
    ["lead"],
    ["leads"],
  );
  const remove = useAct(
    (value: string) => unwrap(api.DELETE("/api/do-not-contact", { params: { query: { client, value } } })),
    ["do-not-contact"],
    ["lead"],
  );
  const problem = add.error instanceof Problem ? add.error : null;
  const file = async (f: File | undefined) => f && add.mutate(await f.text());
  return (
    <Box mb="8">
      <SectionHead>
        Do not contact{" "}
        <Box as="span" fontWeight={400} color="ink2">
          {list.data && `${list.data.total.toLocaleString("en-GB")} addresses`}
        </Box>
      </SectionHead>
      <Box display="grid" gridTemplateColumns={{ base: "1fr", lg: "minmax(0, 460px) minmax(0, 1fr)" }} gap="8">
        <chakra.form
          onSubmit={(e) => {
            e.preventDefault();
            add.mutate(typed, { onSuccess: () => setTyped("") });
          }}
        >
          <Field
            label="Email addresses and telephone numbers, one a line"
            error={problem?.fieldError("addresses")}
            hint="Or a CSV: every cell that is an address counts."
          >
            {(ids) => <TextArea {...ids} rows={3} value={typed} onChange={(e) => setTyped(e.target.value)} />}
          </Field>
          <Field label="Why" error={problem?.fieldError("reason")}>
            {(ids) => <Input {...ids} placeholder="asked for it" value={reason} onChange={(e) => setReason(e.target.value)} />}
          </Field>
          <Box display="flex" gap="3" alignItems="center" flexWrap="wrap">
            <Button type="submit" disabled={add.isPending || !typed.trim()}>
              Put on the list
            </Button>
            <chakra.label fontSize="14px" textDecoration="underline" textUnderlineOffset="3px" cursor="pointer">
              take a file
              <chakra.input
                type="file"
                accept=".csv,.txt,text/csv,text/plain"
                position="absolute"
                width="1px"
                height="1px"
                opacity={0}
                onChange={(e) => void file(e.target.files?.[0])}
              />
            </chakra.label>
          </Box>
          {add.data && (
            <Box role="status" fontSize="14px" mt="2">
              {add.data.added} added, {add.data.there} there already; {add.data.leads} {add.data.leads === 1 ? "lead is" : "leads are"} left
              alone from now on.
              {add.data.unreadable.length > 0 && (
                <Box color="cinder">Neither an email nor a number: {add.data.unreadable.slice(0, 5).join(" · ")}</Box>
              )}
            </Box>
          )}
          {add.error && !problem?.more.errors && <ErrorTold error={add.error} />}
        </chakra.form>
        <Box>
          {(list.data?.total ?? 0) > 8 && (
            <Input aria-label="Search the list" placeholder="search the list" mb="2" value={q} onChange={(e) => setQ(e.target.value)} />
          )}
          {list.data?.rows.slice(0, 12).map((r) => (
            <Box
              key={r.value}
              display="flex"
              gap="3"
              minH="34px"
              alignItems="center"
              borderBottomWidth="1px"
              borderColor="line2"
              fontSize="14px"
            >
              <Box fontFamily="mono" fontSize="13px" overflowWrap="anywhere">
                {r.value}
              </Box>
              <Box color="ink2" fontSize="13px">
                {r.reason}, {r.by ?? "a program"} {dayAndClock(r.at, now, zone)}
              </Box>
              <Button
                ml="auto"
                look="quiet"
                fontSize="13px"
                aria-label={`Take ${r.value} off`}
                onClick={() => window.confirm(`May ${r.value} be contacted again?`) && remove.mutate(r.value)}
              >
                take off
              </Button>
            </Box>
          ))}
        </Box>
      </Box>
      {remove.error && <ErrorTold error={remove.error} />}
    </Box>
  );
}
