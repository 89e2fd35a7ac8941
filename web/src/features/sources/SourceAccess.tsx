import { Box } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, Problem, type Schemas, unwrap } from "@/api/client";
import { useChosenClient, withClient } from "@/app/useChosenClient";
import { usePerson } from "@/app/useSession";
import { Button } from "@/ui/Button";
import { ToPaste } from "@/ui/Copy";
import { Field, Input } from "@/ui/Field";
import { SectionHead } from "@/ui/Page";
import { ErrorTold } from "@/ui/Told";
import { useAct } from "@/ui/useAct";
import { UploadFile } from "./UploadFile";

export function AddressAndKey({ whole, may }: { whole: Schemas["SourceDetail"]; may: boolean }) {
  const path = { params: { path: { sourceId: whole.source.id } } };
  const [key, setKey] = useState<string | null>(null);
  const show = useAct(() => unwrap(api.GET("/api/sources/{sourceId}/key", path)));
  const renew = useAct(() => unwrap(api.POST("/api/sources/{sourceId}/key", path)));
  const asKey = (made: { key: string }) => setKey(made.key);
  return (
    <Box mb="5">
      <SectionHead>To paste at {whole.card.name}</SectionHead>
      <Box fontSize="13px" color="ink2">
        Address
      </Box>
      <ToPaste text={whole.sendTo ?? ""} label="Copy the address" />
      <Box fontSize="13px" color="ink2">
        {whole.source.kind === "formbench" ? "Signing secret" : "Key"}
      </Box>
      {key ? (
        <ToPaste text={key} label="Copy the key" />
      ) : (
        <Box fontFamily="mono" fontSize="13px" mb="2">
          ••••••••••••••••••••
        </Box>
      )}
      {may && (
        <Box display="flex" gap="3">
          {!key && (
            <Button size="small" onClick={() => show.mutate(undefined, { onSuccess: asKey })}>
              Show the key
            </Button>
          )}
          <Button
            size="small"
            look="soft"
            onClick={() =>
              window.confirm("The old key is refused from this moment. Make a new one?") && renew.mutate(undefined, { onSuccess: asKey })
            }
          >
            Make a new key
          </Button>
        </Box>
      )}
      {(show.error || renew.error) && <ErrorTold error={show.error ?? renew.error} />}
    </Box>
  );
}

export function DailyFilePart({ whole, may }: { whole: Schemas["SourceDetail"]; may: boolean }) {
  const path = { params: { path: { sourceId: whole.source.id } } };
  const chosen = useChosenClient();
  const navigate = useNavigate();
  const person = usePerson();
  const plan = useQuery({
    queryKey: ["daily-file", whole.source.id],
    queryFn: () => unwrap(api.GET("/api/sources/{sourceId}/daily-file", path)),
  });
  const [url, setUrl] = useState<string | null>(null);
  const save = useAct(
    () => unwrap(api.PUT("/api/sources/{sourceId}/daily-file", { ...path, body: { url } })),
    ["daily-file", whole.source.id],
  );
  const pick = useAct(() => unwrap(api.POST("/api/sources/{sourceId}/daily-file", path)), ["imports"]);
  const pickNow = async () => void navigate(withClient(`/sources/files/${(await pick.mutateAsync()).id}`, chosen?.key));
  const client = person.clients.find((c) => c.id === whole.source.clientId);
  return (
    <Box mb="5">
      <SectionHead>Its daily file</SectionHead>
      <Field
        label="Picked up every morning from"
        hint="{date} stands for the day before. What was pushed already adds nothing."
        error={save.error instanceof Problem ? save.error.fieldError("url") : null}
      >
        {(ids) => (
          <Input
            {...ids}
            value={url ?? plan.data?.url ?? ""}
            disabled={!may}
            placeholder="https://…/{date}.csv"
            onChange={(e) => setUrl(e.target.value)}
          />
        )}
      </Field>
      {may && (
        <Box display="flex" gap="3" flexWrap="wrap" mb="3">
          {url !== null && (
            <Button size="small" onClick={() => save.mutate(undefined, { onSuccess: () => setUrl(null) })}>
              Save
            </Button>
          )}
          <Button
            size="small"
            look="soft"
            disabled={!plan.data?.url || pick.isPending}
            onClick={() => void pickNow().catch(() => undefined)}
          >
            Pick up today's now
          </Button>
        </Box>
      )}
      {pick.error && <ErrorTold error={pick.error} />}
      {may && client && <UploadFile client={client.key} source={whole.source.id} />}
    </Box>
  );
}
