import { Box, chakra } from "@chakra-ui/react";
import { useState } from "react";
import { api, Problem, type Schemas, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { ToPaste } from "@/ui/Copy";
import { Field, Input, Select } from "@/ui/Field";
import { ErrorTold } from "@/ui/Told";
import { useAct } from "@/ui/useAct";

type Row = Schemas["ConnectionRow"];

/** How much may go through a connection at once, and in a minute. */
export function LimitsForm({ connection: c, done }: { connection: Row; done: () => void }) {
  const [atOnce, setAtOnce] = useState(c.atOnce?.toString() ?? "");
  const [perMinute, setPerMinute] = useState(c.perMinute?.toString() ?? "");
  const number = (text: string) => (text.trim() ? Number(text) : null);
  const keep = useAct(
    () =>
      unwrap(
        api.PUT("/api/connections/{connectionId}/limits", {
          params: { path: { connectionId: c.id } },
          body: { atOnce: number(atOnce), perMinute: number(perMinute) },
        }),
      ),
    ["connections"],
  );
  const problem = keep.error instanceof Problem ? keep.error : null;
  return (
    <chakra.form
      maxW="460px"
      mt="2"
      onSubmit={(e) => {
        e.preventDefault();
        keep.mutate(undefined, { onSuccess: done });
      }}
    >
      <Field label="At once, at most" hint="Empty: as many as usual, 24." error={problem?.fieldError("atOnce")}>
        {(ids) => <Input {...ids} type="number" min={1} max={24} value={atOnce} onChange={(e) => setAtOnce(e.target.value)} />}
      </Field>
      <Field label="In a minute, at most" hint="Empty: any number." error={problem?.fieldError("perMinute")}>
        {(ids) => <Input {...ids} type="number" min={1} max={60000} value={perMinute} onChange={(e) => setPerMinute(e.target.value)} />}
      </Field>
      <Box display="flex" gap="3">
        <Button type="submit" disabled={keep.isPending}>
          Keep to it
        </Button>
        <Button type="button" look="quiet" onClick={done}>
          Leave it
        </Button>
      </Box>
      {keep.error && !problem?.more.errors && <ErrorTold error={keep.error} />}
    </chakra.form>
  );
}

/** A new signing secret, with the present one good beside it for as long as the other side needs. */
export function SecretForm({ connection: c, done }: { connection: Row; done: () => void }) {
  const [hours, setHours] = useState("24");
  const make = useAct(
    () =>
      unwrap(
        api.POST("/api/connections/{connectionId}/secret", {
          params: { path: { connectionId: c.id } },
          body: { overlapHours: Number(hours) },
        }),
      ),
    ["connections"],
  );
  if (make.data?.secret) return <SecretTold secret={make.data.secret} done={done} />;
  return (
    <chakra.form
      maxW="460px"
      mt="2"
      onSubmit={(e) => {
        e.preventDefault();
        make.mutate();
      }}
    >
      <Field label="The present one signs too" hint="Until then whoever checks with either is right.">
        {(ids) => (
          <Select {...ids} value={hours} onChange={(e) => setHours(e.target.value)}>
            <option value="0">not any more: it is out</option>
            <option value="1">for an hour</option>
            <option value="24">for a day</option>
            <option value="168">for a week</option>
          </Select>
        )}
      </Field>
      <Box display="flex" gap="3">
        <Button type="submit" disabled={make.isPending}>
          Make a new secret
        </Button>
        <Button type="button" look="quiet" onClick={done}>
          Leave it
        </Button>
      </Box>
      {make.error && <ErrorTold error={make.error} />}
    </chakra.form>
  );
}

/** A secret that is told once. */
export function SecretTold({ secret, done }: { secret: string; done: () => void }) {
  return (
    <Box mt="2" maxW="560px">
      <Box mb="1">The signing secret, told this once:</Box>
      <ToPaste text={secret} label="Copy the secret" />
      <Button size="small" mt="2" onClick={done}>
        I have it
      </Button>
    </Box>
  );
}
