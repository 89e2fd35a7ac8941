import { Box } from "@chakra-ui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import { api, type Schemas, unwrap } from "@/api/client";
import { useChosenClient, withClient } from "@/app/useChosenClient";
import { may, usePerson } from "@/app/useSession";
import { FromFile } from "@/features/fuses/panels/FromFile";
import { Button } from "@/ui/Button";
import { Select } from "@/ui/Field";
import { PageHead } from "@/ui/Page";
import { ErrorTold, Fetching } from "@/ui/Told";
import { litByWords } from "./model/sheetLayout";
import { RunSheet } from "./sheet/RunSheet";

const nothing = () => {};

/** Fuses to begin from: kits made for the client, shown as the sheets they would be; a file; or an empty one. */
export function NewFusePage() {
  const person = usePerson();
  const chosen = useChosenClient();
  const navigate = useNavigate();
  const queries = useQueryClient();
  const [search, setSearch] = useSearchParams();
  const allowed = person.clients.filter((c) => may(person, "edit-fuses", c.id));
  const [picked, setPicked] = useState(allowed[0]?.key ?? "");
  // Made for one form, it is for that form's client.
  const form = search.get("form");
  const asked = chosen?.key ?? picked;
  const kits = useQuery({
    queryKey: ["kits", form ?? asked],
    enabled: form !== null || asked !== "",
    queryFn: () => unwrap(api.GET("/api/kits", { params: { query: form ? { form } : { client: asked } } })),
  });
  const client = form ? (kits.data?.client ?? "") : asked;
  const formName = kits.data?.around.forms.find((f) => f.key === form)?.name;
  const make = useMutation({
    mutationFn: (from: { kit?: string; file?: string }) =>
      unwrap(api.POST("/api/fuses", { body: { client, kit: from.kit ?? null, file: from.file ?? null, form } })),
    onSuccess: ({ id }) => {
      void queries.invalidateQueries({ queryKey: ["fuses"] });
      void navigate(withClient(`/fuses/${id}`, chosen ? client : undefined));
    },
  });
  const shown = kits.data?.kits.find((k) => k.key === search.get("kit")) ?? kits.data?.kits[0];
  const show = (key: string) =>
    setSearch((before) => {
      const next = new URLSearchParams(before);
      next.set("kit", key);
      return next;
    });
  return (
    <Box p={{ base: "3", md: "5" }} pt="4">
      <PageHead
        title={formName ? `New fuse for “${formName}”` : "New fuse"}
        beside="begin from one that is complete, and change what differs"
      >
        {!chosen && !form && (
          <Select aria-label="Client of the new fuse" value={picked} onChange={(e) => setPicked(e.target.value)} width="auto">
            {allowed.map((c) => (
              <option key={c.id} value={c.key}>
                {c.shortName}
              </option>
            ))}
          </Select>
        )}
        <FromFile onFile={(file) => make.mutate({ file })} />
        <Button look="soft" onClick={() => make.mutate({})} disabled={make.isPending || client === ""}>
          Begin with nothing
        </Button>
      </PageHead>
      {make.error && <ErrorTold error={make.error} />}
      {kits.error && <ErrorTold error={kits.error} again={() => void kits.refetch()} />}
      {kits.isPending && (form !== null || asked !== "") && <Fetching what="what to begin from" />}
      {kits.data && (
        <Box display="grid" gridTemplateColumns={{ base: "1fr", lg: "290px minmax(0, 1fr)" }} gap="5">
          <Box as="ul" listStyleType="none" aria-label="Fuses to begin from">
            {kits.data.kits.map((kit) => (
              <KitItem key={kit.key} kit={kit} shown={kit.key === shown?.key} onShow={() => show(kit.key)} />
            ))}
          </Box>
          {shown && (
            <Box minW="0">
              <Box display="flex" gap="3" alignItems="baseline" flexWrap="wrap" mb="1">
                <Box as="h2" fontSize="18px" fontWeight={700}>
                  {shown.name}
                </Box>
                <Button look="primary" ml="auto" disabled={make.isPending} onClick={() => make.mutate({ kit: shown.key })}>
                  Begin with this
                </Button>
              </Box>
              <Box color="ink2" mb="3">
                Lit when {shown.definition.litBy.map((way) => litByWords(way, kits.data.around)).join(", or ")}.
                {shown.faults.length > 0 && (
                  <Box as="span" color="cinder">
                    {" "}
                    To mend before it can be armed: {shown.faults[0]?.what}
                    {shown.faults.length > 1 ? ` And ${shown.faults.length - 1} more.` : ""}
                  </Box>
                )}
              </Box>
              <RunSheet
                whole={{ around: kits.data.around, faults: shown.faults, counts: null }}
                definition={shown.definition}
                mayEdit={false}
                openStep={undefined}
                openBand={undefined}
                onStep={nothing}
                onBand={nothing}
                onAddStep={nothing}
                onAddBand={nothing}
              />
            </Box>
          )}
        </Box>
      )}
    </Box>
  );
}

function KitItem({ kit, shown, onShow }: { kit: Schemas["KitRow"]; shown: boolean; onShow: () => void }) {
  return (
    <Box
      as="li"
      borderTopWidth="1px"
      bg={shown ? "card" : undefined}
      borderLeftWidth="3px"
      borderLeftColor={shown ? "sulphur" : "transparent"}
    >
      <Button
        look="quiet"
        width="full"
        minH="0"
        py="2"
        px="3"
        justifyContent="flex-start"
        textAlign="left"
        textDecoration="none"
        whiteSpace="normal"
        fontWeight={shown ? 700 : 400}
        aria-pressed={shown}
        onClick={onShow}
      >
        <span>
          {kit.name}
          <Box as="span" display="block" fontSize="13px" fontWeight={400} color="ink2">
            when {kit.for}
          </Box>
        </span>
      </Button>
    </Box>
  );
}
