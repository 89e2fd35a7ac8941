import { Box, chakra } from "@chakra-ui/react";
import { Link } from "react-router";
import type { Schemas } from "@/api/client";
import { Button } from "@/ui/Button";
import { SectionHead, State } from "@/ui/Page";
import { dayAndClock } from "@/ui/time";

type MapTableProps = { whole: Schemas["FormDetail"]; given: ReadonlyMap<string, string>; may: boolean; zone: string; now: number };

export function MapState({ map }: { map: Schemas["FormRow"]["map"] }) {
  return map === "confirmed" ? <State of="whole">confirmed</State> : <State of="broken">not confirmed</State>;
}

/** Where each field goes, at a glance; it is made and confirmed on a page of its own. */
export function MapTable({ whole, given, may, zone, now }: MapTableProps) {
  const { form } = whole;
  const unmapped = form.map !== "confirmed";
  const to = `/sources/${form.id}/map`;
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
      {unmapped && (
        <Box borderLeftWidth="6px" borderColor="cinder" bg="card" p="3" mb="3" fontSize="14px">
          <b>Nothing of this form flows yet.</b> {form.waiting > 0 && `${form.waiting} submissions wait. `}
          {whole.fields.length > 0
            ? "Where its fields go is suggested already: look at it beside a real sample, and confirm. What waits is then acted on, in order."
            : "Its fields stand here with the first submission."}
          {may && whole.fields.length > 0 && form.state !== "offered" && (
            <Box mt="2">
              <Button look="primary" asChild>
                <Link to={to}>Look at the map and confirm</Link>
              </Button>
            </Box>
          )}
        </Box>
      )}
      {whole.fields.length > 0 && (
        <Box overflowX="auto">
          <chakra.table width="full" fontSize="14px" borderCollapse="collapse">
            <thead>
              <chakra.tr borderBottomWidth="1px" fontSize="13px" color="ink2">
                {["the form asks", "goes to", "in the sample"].map((h) => (
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
                  <chakra.td pr="3" fontWeight={f.leadField ? 600 : 400} color={f.leadField ? undefined : "ink2"}>
                    {f.leadField?.replaceAll("_", " ") ?? (unmapped ? "nowhere yet" : "its own name, or left out")}
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
        </Box>
      )}
      {!unmapped && may && (
        <Box mt="2">
          <Link to={to}>
            <u>Change the map</u>
          </Link>
        </Box>
      )}
    </Box>
  );
}
