import { Box, chakra } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, Problem, type Schemas, unwrap } from "@/api/client";
import { useChosenClient, withClient } from "@/app/useChosenClient";
import { Button } from "@/ui/Button";
import { Field, Input } from "@/ui/Field";
import { SectionHead } from "@/ui/Page";
import { ErrorTold, Fetching } from "@/ui/Told";
import { useAct } from "@/ui/useAct";

export function Places({ whole }: { whole: Schemas["SourceDetail"] }) {
  const { source, card } = whole;
  const path = { params: { path: { sourceId: source.id } } };
  const places = useQuery({ queryKey: ["places", source.id], queryFn: () => unwrap(api.GET("/api/sources/{sourceId}/places", path)) });
  const [picked, setPicked] = useState<string[] | null>(null);
  const choose = useAct(
    (ids: string[]) => unwrap(api.PUT("/api/sources/{sourceId}/places", { ...path, body: { ids } })),
    ["source", source.id],
    ["sources"],
  );
  const all = places.data?.places ?? [];
  const ids = picked ?? (whole.places.length > 0 ? whole.places.map((p) => p.id) : all.map((p) => p.id));
  const turn = (id: string) => setPicked(ids.includes(id) ? ids.filter((i) => i !== id) : [...ids, id]);
  return (
    <Box mb="5">
      <SectionHead>Which {card.placeWord}s</SectionHead>
      {places.error && <ErrorTold error={places.error} again={() => void places.refetch()} />}
      {places.isPending && <Fetching what={`the ${card.placeWord}s`} />}
      {places.data && all.length === 0 && (
        <Box color="ink2">On the consent page no {card.placeWord} was given. Connect again and tick one.</Box>
      )}
      <Box display="flex" flexWrap="wrap" columnGap="5" rowGap="1">
        {all.map((p) => (
          <chakra.label key={p.id} display="flex" gap="2" alignItems="center" minH="30px">
            <input type="checkbox" checked={ids.includes(p.id)} onChange={() => turn(p.id)} /> {p.name}
          </chakra.label>
        ))}
      </Box>
      {picked && (
        <Box mt="2" display="flex" gap="3" alignItems="center">
          <Button
            size="small"
            disabled={choose.isPending || ids.length === 0}
            onClick={() => choose.mutate(ids.length === all.length ? [] : ids, { onSuccess: () => setPicked(null) })}
          >
            {ids.length === all.length ? `Take all, later ones too` : `Take ${ids.length} of ${all.length}`}
          </Button>
          {ids.length === 0 && <Box fontSize="13px">Tick at least one.</Box>}
        </Box>
      )}
      {choose.error && <ErrorTold error={choose.error} />}
    </Box>
  );
}

export function Offered({ forms, may, sourceId }: { forms: readonly Schemas["FormRow"][]; may: boolean; sourceId: string }) {
  const chosen = useChosenClient();
  const navigate = useNavigate();
  const choose = useAct(
    (formId: string) => unwrap(api.POST("/api/forms/{formId}/choose", { params: { path: { formId } } })),
    ["source", sourceId],
    ["sources"],
    ["forms"],
  );
  const take = async (id: string) => {
    await choose.mutateAsync(id);
    void navigate(withClient(`/sources/${id}/map`, chosen?.key));
  };
  return (
    <Box mt="5">
      <SectionHead>Found there, not chosen</SectionHead>
      {forms.map((f) => (
        <Box key={f.id} display="flex" gap="3" alignItems="center" borderBottomWidth="1px" borderColor="line2" minH="40px" flexWrap="wrap">
          <Box fontWeight={600}>{f.name}</Box>
          <Box fontSize="13px" color="ink2">
            {[f.place, f.adState === "waiting" ? "ad awaits approval" : f.adState === "stopped" ? "ad stopped" : f.adState && "ad running"]
              .filter(Boolean)
              .join(" · ")}
          </Box>
          {may && (
            <Button
              size="small"
              ml="auto"
              disabled={choose.isPending}
              onClick={() => void take(f.id).catch(() => undefined)}
              aria-label={`Choose ${f.name}`}
            >
              Choose, and see its map
            </Button>
          )}
        </Box>
      ))}
      {choose.error && <ErrorTold error={choose.error} />}
    </Box>
  );
}

export function MakeForm({ source }: { source: Schemas["SourceRow"] }) {
  const chosen = useChosenClient();
  const navigate = useNavigate();
  const [name, setName] = useState("");
  const make = useAct(
    (built: boolean) => unwrap(api.POST("/api/forms", { body: { sourceId: source.id, name, built } })),
    ["source", source.id],
    ["sources"],
    ["forms"],
  );
  const go = async (built: boolean) => {
    const { id } = await make.mutateAsync(built);
    void navigate(withClient(`/sources/${id}${built ? "/build" : ""}`, chosen?.key));
  };
  const website = source.kind === "website";
  return (
    <chakra.form
      mt="4"
      onSubmit={(e) => {
        e.preventDefault();
        go(website).catch(() => undefined);
      }}
    >
      <Field
        label={source.kind === "hook" ? "A new hook, called" : "A new form, called"}
        error={make.error instanceof Problem ? make.error.fieldError("name") : null}
      >
        {(ids) => (
          <Box display="flex" gap="2" flexWrap="wrap">
            <Input {...ids} value={name} onChange={(e) => setName(e.target.value)} maxW="280px" required />
            <Button type="submit" disabled={make.isPending || !name.trim()}>
              {website ? "Build it here" : "Make it"}
            </Button>
            {website && (
              <Button
                type="button"
                look="soft"
                disabled={make.isPending || !name.trim()}
                onClick={() => void go(false).catch(() => undefined)}
              >
                The page has it already
              </Button>
            )}
          </Box>
        )}
      </Field>
      {make.error && !(make.error instanceof Problem && make.error.fieldError("name")) && <ErrorTold error={make.error} />}
    </chakra.form>
  );
}
