import { Box } from "@chakra-ui/react";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api, type Schemas, unwrap } from "@/api/client";
import { usePerson } from "@/app/useSession";
import { reactionsOf } from "@/features/fuses/model/dryRun";
import type { DryRun } from "@/features/fuses/model/useDryRun";
import { useLatestLeads } from "@/features/fuses/model/useLatestLeads";
import { Button } from "@/ui/Button";
import { Field, Input, Select } from "@/ui/Field";
import { SideSheet } from "@/ui/SideSheet";
import { ErrorTold } from "@/ui/Told";
import { cityOf } from "@/ui/time";
import { DryMoments } from "./DryMoments";
import { SpanInput } from "./SpanInput";

type DryProps = { whole: Schemas["FuseDetail"]; run: DryRun; close: () => void };

/** A dry run: who, when they ask, what happens then, and every moment of it. Nothing leaves. */
export function DrySheet({ whole, run, close }: DryProps) {
  const { told: result } = run;
  return (
    <SideSheet title="Dry run" close={close} wide>
      <Box fontSize="13px" color="ink2" mb="3">
        As the fuse stands on the sheet. The clock is made up; nothing leaves.
      </Box>
      <WhoAsks whole={whole} run={run} />
      <Field label={`They ask, on ${cityOf(whole.around.zone)}'s clock`} hint={run.at ? undefined : "Left empty: now."}>
        {(ids) => <Input {...ids} type="datetime-local" value={run.at} onChange={(e) => run.setAt(e.target.value)} />}
      </Field>
      <Reactions around={whole.around} run={run} />
      {run.error && <ErrorTold error={run.error} />}
      {result && (
        <>
          <Box borderTopWidth="1px" borderColor="ink" pt="3" mt="3" fontSize="14px">
            <b>{result.lead}</b> lives by {cityOf(result.zone)}'s clock{result.zoneBecause ? ` (${result.zoneBecause})` : ""}.{" "}
            {result.texts === 0
              ? "They get no text. "
              : `They get ${result.texts === 1 ? "1 text" : `${result.texts} texts`}, ${result.segments === 1 ? "1 segment" : `${result.segments} segments`} in all. `}
            {result.status === "ended" ? "Then it has burnt out." : "At the end it still listens."}
            {result.note && <Box color="cinder">{result.note}</Box>}
          </Box>
          <DryMoments key={run.who && "leadId" in run.who ? run.who.leadId : "typed"} told={result} run={run} definition={whole} />
        </>
      )}
    </SideSheet>
  );
}

const typed = "typed";

function WhoAsks({ whole, run }: { whole: Schemas["FuseDetail"]; run: DryRun }) {
  const client = usePerson().clients.find((c) => c.id === whole.fuse.clientId)?.key ?? "";
  const shown = useLatestLeads(client);
  const { who, setWho } = run;
  const first = shown[0]?.id;
  useEffect(() => {
    if (!who && first) setWho({ leadId: first });
  }, [who, first, setWho]);
  const place = shown.findIndex((l) => who && "leadId" in who && l.id === who.leadId);
  const step = (by: number) => {
    const next = shown[place + by];
    if (next) setWho({ leadId: next.id });
  };
  return (
    <>
      <Field label="With the answers of">
        {(ids) => (
          <Box display="flex" gap="2">
            <Select
              {...ids}
              value={who && "leadId" in who ? who.leadId : typed}
              onChange={(e) => setWho(e.target.value === typed ? { form: "", answers: {} } : { leadId: e.target.value })}
            >
              {shown.map((l) => (
                <option key={l.id} value={l.id}>
                  {l.name}
                  {l.asked ? `: ${l.asked}` : ""}
                </option>
              ))}
              <option value={typed}>answers that I type</option>
            </Select>
            <Button look="soft" size="small" aria-label="A newer lead" disabled={place <= 0} onClick={() => step(-1)}>
              ‹
            </Button>
            <Button
              look="soft"
              size="small"
              aria-label="An older lead"
              disabled={place < 0 || place + 1 >= shown.length}
              onClick={() => step(1)}
            >
              ›
            </Button>
          </Box>
        )}
      </Field>
      {who && "form" in who && <TypedAnswers client={client} who={who} onChange={setWho} />}
    </>
  );
}

function TypedAnswers({
  client,
  who,
  onChange,
}: {
  client: string;
  who: { form: string; answers: Record<string, string> };
  onChange: (who: { form: string; answers: Record<string, string> }) => void;
}) {
  const forms = useQuery({
    queryKey: ["forms", client],
    queryFn: () => unwrap(api.GET("/api/forms", { params: { query: { client } } })),
  });
  const receiving = (forms.data?.forms ?? []).filter((f) => f.state === "receiving");
  const chosen = receiving.find((f) => f.key === who.form);
  const form = useQuery({
    queryKey: ["form", chosen?.id ?? ""],
    enabled: chosen !== undefined,
    queryFn: () => unwrap(api.GET("/api/forms/{formId}", { params: { path: { formId: chosen?.id ?? "" } } })),
  });
  return (
    <Box borderLeftWidth="4px" borderColor="sulphur" pl="3" mb="3">
      <Field label="On the form">
        {(ids) => (
          <Select {...ids} value={who.form} onChange={(e) => onChange({ form: e.target.value, answers: {} })}>
            <option value="">choose one</option>
            {receiving.map((f) => (
              <option key={f.id} value={f.key}>
                {f.name}
              </option>
            ))}
          </Select>
        )}
      </Field>
      {chosen &&
        (form.data?.fields ?? []).map((f) => (
          <Field key={f.name} label={f.label || f.name}>
            {(ids) =>
              f.choices.length > 0 ? (
                <Select
                  {...ids}
                  value={who.answers[f.name] ?? ""}
                  onChange={(e) => onChange({ ...who, answers: { ...who.answers, [f.name]: e.target.value } })}
                >
                  <option value="">nothing</option>
                  {f.choices.map((c) => (
                    <option key={c}>{c}</option>
                  ))}
                </Select>
              ) : (
                <Input
                  {...ids}
                  value={who.answers[f.name] ?? ""}
                  maxLength={2000}
                  onChange={(e) => onChange({ ...who, answers: { ...who.answers, [f.name]: e.target.value } })}
                />
              )
            }
          </Field>
        ))}
    </Box>
  );
}

function Reactions({ around, run }: { around: Schemas["FuseContext"]; run: DryRun }) {
  const kinds = reactionsOf(around);
  const [adding, setAdding] = useState("");
  const change = (i: number, to: Partial<Schemas["DryReaction"]>) =>
    run.setReactions(run.reactions.map((r, n) => (n === i ? { ...r, ...to } : r)));
  return (
    <Box mb="3">
      <Box fontSize="13px" color="ink2" mb="1">
        What happens then
      </Box>
      {run.reactions.length === 0 && <Box fontSize="14px">Nothing: nobody answers, and every service works.</Box>}
      {run.reactions.map((r, i) => {
        const kind = kinds.find((k) => k.what === r.what);
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: they are edited in place, in this order
          <Box key={i} role="group" aria-label={kind?.label} borderLeftWidth="4px" borderColor="line" pl="3" mb="2">
            <Box display="flex" justifyContent="space-between" alignItems="baseline" fontWeight={600} fontSize="14px" mb="1">
              {kind?.label}
              <Button
                look="quiet"
                fontSize="13px"
                fontWeight={400}
                onClick={() => run.setReactions(run.reactions.filter((_, n) => n !== i))}
              >
                Take out
              </Button>
            </Box>
            <Box
              display="grid"
              gridTemplateColumns={r.what === "down" ? "1fr" : "1fr 1fr"}
              gap="2"
              css={{ "& > div": { marginBottom: 0 } }}
            >
              {r.what !== "down" && (
                <SpanInput label="After" seconds={r.afterSeconds} onChange={(afterSeconds) => change(i, { afterSeconds })} />
              )}
              {kind?.detail && (
                <Field label={kind.detail.label}>
                  {(ids) =>
                    kind.detail?.values ? (
                      <Select {...ids} value={r.detail ?? ""} onChange={(e) => change(i, { detail: e.target.value })}>
                        {kind.detail.values.map((v) => (
                          <option key={v}>{v}</option>
                        ))}
                      </Select>
                    ) : (
                      <Input {...ids} value={r.detail ?? ""} maxLength={500} onChange={(e) => change(i, { detail: e.target.value })} />
                    )
                  }
                </Field>
              )}
            </Box>
          </Box>
        );
      })}
      <Select
        aria-label="Add something that happens"
        value={adding}
        width="auto"
        onChange={(e) => {
          const kind = kinds.find((k) => k.what === e.target.value);
          if (!kind) return;
          const detail = kind.detail?.values?.[0] ?? (kind.what === "replied" ? "yes" : null);
          run.setReactions([...run.reactions, { what: kind.what, afterSeconds: kind.what === "down" ? 0 : 180, detail }]);
          setAdding("");
        }}
      >
        <option value="">Add something that happens …</option>
        {kinds.map((k) => (
          <option key={k.what} value={k.what}>
            {k.label}
          </option>
        ))}
      </Select>
    </Box>
  );
}
