import { Box, chakra } from "@chakra-ui/react";
import { useId, useState } from "react";
import { api, type Schemas, told } from "@/api/client";
import { Button } from "@/ui/Button";
import { Input } from "@/ui/Field";
import { SectionHead, State } from "@/ui/Page";
import { ErrorTold } from "@/ui/Told";
import { dayAndClock } from "@/ui/time";
import { useAct } from "@/ui/useAct";

const standard = ["first_name", "last_name", "full_name", "email", "phone", "company", "message"];
const keep = "kept under its own name";
const leaveOut = "left out";

type MapTableProps = { whole: Schemas["FormWhole"]; given: ReadonlyMap<string, string>; may: boolean; zone: string; now: number };

export function MapState({ map }: { map: Schemas["FormRow"]["map"] }) {
  if (map === "confirmed") return <State of="whole">confirmed</State>;
  return <State of="broken">{map === "suggested" ? "not confirmed" : "no map"}</State>;
}

/** Where each field goes, beside what the sample says. Without a confirmed map nothing flows. */
export function MapTable({ whole, given, may, zone, now }: MapTableProps) {
  const { form } = whole;
  const list = useId();
  const [targets, setTargets] = useState<Record<string, string>>({});
  const confirm = useAct(
    (rows: Schemas["MapRow"][]) =>
      told(api.PUT("/api/forms/{formId}/map", { params: { path: { formId: form.id } }, body: { rows, version: whole.mapVersion ?? 0 } })),
    ["form", form.id],
    ["forms"],
    ["sources"],
  );
  const unmapped = whole.mapVersion === null;
  const of = (f: Schemas["FormFieldRow"]) => targets[f.name] ?? f.leadField ?? (unmapped && standard.includes(f.name) ? f.name : keep);
  const editing = unmapped || Object.keys(targets).length > 0;
  const rows = whole.fields.map((f) => ({
    formField: f.name,
    leadField: of(f) === leaveOut ? null : of(f) === keep || !of(f).trim() ? f.name : of(f).trim().replaceAll(" ", "_"),
  }));
  const reachable = rows.some((r) => r.leadField === "email" || r.leadField === "phone");
  return (
    <Box>
      <SectionHead>
        Field map <MapState map={form.map} />{" "}
        <Box as="span" fontWeight={400} color="ink2" fontSize="13px">
          {whole.mapVersion && `version ${whole.mapVersion}`}
          {whole.mapByItsMaker && ", as the form's maker says"}
          {whole.confirmedBy && whole.confirmedAt && `, by ${whole.confirmedBy} ${dayAndClock(whole.confirmedAt, now, zone)}`}
        </Box>
      </SectionHead>
      {unmapped && whole.fields.length > 0 && (
        <Box borderLeftWidth="4px" borderColor="cinder" bg="card" p="3" mb="3" fontSize="14px">
          <b>Nothing of this form flows yet.</b> {form.waiting > 0 && `${form.waiting} submissions wait.`} Say which field is the email
          address or the telephone number, and confirm: what waits is then acted on in order.
        </Box>
      )}
      {whole.fields.length === 0 ? (
        <Box color="ink2" fontSize="14px">
          Nobody knows yet what it asks. Its fields stand here with the first submission.
        </Box>
      ) : (
        <Box overflowX="auto">
          <chakra.table width="full" fontSize="14px" borderCollapse="collapse">
            <thead>
              <chakra.tr borderBottomWidth="1px" fontSize="13px" color="ink2">
                {["the form asks", "as", "goes to", "in the sample"].map((h) => (
                  <chakra.th key={h} textAlign="left" fontWeight={400} pb="1" pr="3">
                    {h}
                  </chakra.th>
                ))}
              </chakra.tr>
            </thead>
            <tbody>
              {whole.fields.map((f) => (
                <chakra.tr key={f.name} borderBottomWidth="1px" borderColor="line2" verticalAlign="baseline">
                  <chakra.td py="6px" pr="3">
                    {f.label}
                    <Box as="span" color="ink2" fontSize="12px">
                      {f.required && " must"}
                      {f.seen && " came along"}
                    </Box>
                  </chakra.td>
                  <chakra.td pr="3" fontFamily="mono" fontSize="12px" color="ink2" maxW="130px" truncate title={f.name}>
                    {f.name}
                  </chakra.td>
                  <chakra.td pr="3" fontWeight={600}>
                    {may ? (
                      <Input
                        aria-label={`${f.label} goes to`}
                        list={list}
                        minH="30px"
                        py="0"
                        fontSize="14px"
                        minW="150px"
                        fontWeight={600}
                        borderColor="transparent"
                        textDecoration="underline dotted"
                        textUnderlineOffset="4px"
                        borderRadius="0"
                        bg="transparent"
                        px="1"
                        _hover={{ borderColor: "slate" }}
                        value={of(f).replaceAll("_", " ")}
                        onFocus={(e) => e.target.select()}
                        onChange={(e) => setTargets((t) => ({ ...t, [f.name]: e.target.value }))}
                      />
                    ) : (
                      of(f).replaceAll("_", " ")
                    )}
                  </chakra.td>
                  <chakra.td pr="3" overflowWrap="anywhere">
                    {given.get(f.name) ?? (
                      <Box as="span" color="ink2">
                        –
                      </Box>
                    )}
                  </chakra.td>
                </chakra.tr>
              ))}
            </tbody>
          </chakra.table>
          <datalist id={list}>
            {[...standard.map((s) => s.replaceAll("_", " ")), keep, leaveOut].map((s) => (
              <option key={s} value={s} />
            ))}
          </datalist>
        </Box>
      )}
      {may && editing && whole.fields.length > 0 && (
        <Box mt="3" display="flex" gap="3" alignItems="center" flexWrap="wrap">
          <Button look="primary" disabled={confirm.isPending || !reachable} onClick={() => confirm.mutate(rows)}>
            Confirm the map
          </Button>
          {!unmapped && (
            <Button look="quiet" onClick={() => setTargets({})}>
              Put back
            </Button>
          )}
          {!reachable && <Box fontSize="13px">One field must go to email or phone.</Box>}
        </Box>
      )}
      {confirm.error && <ErrorTold error={confirm.error} />}
    </Box>
  );
}
