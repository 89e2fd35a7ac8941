import { Box } from "@chakra-ui/react";
import { useState } from "react";
import { api, Problem, unwrap } from "@/api/client";
import { usePerson } from "@/app/useSession";
import { laidOut } from "@/features/deliveries/words";
import type { Step } from "@/features/fuses/model/sheetLayout";
import { useLatestLeads } from "@/features/fuses/model/useLatestLeads";
import { Button } from "@/ui/Button";
import { Raw, ToPaste } from "@/ui/Copy";
import { Select } from "@/ui/Field";
import { ErrorTold } from "@/ui/Told";
import { span } from "@/ui/time";
import { useAct } from "@/ui/useAct";

type TryProps = { step: Step; clientId: string; broken: boolean /** It speaks to somebody: then to oneself. */; message: boolean };

/** Does the step now, as a test: a record is marked, and can be taken back; a message goes to oneself. */
export function TryStep({ step, clientId, broken, message }: TryProps) {
  const client = usePerson().clients.find((c) => c.id === clientId)?.key ?? "";
  const [leadId, setLeadId] = useState("");
  const leads = useLatestLeads(client);
  const attempt = useAct(
    () => unwrap(api.POST("/api/connections/try", { body: { client, step, leadId: leadId || null } })),
    ["deliveries"],
  );
  const back = useAct((given: { connectionId: string; reference: string }) =>
    unwrap(
      api.POST("/api/connections/{connectionId}/take-back", {
        params: { path: { connectionId: given.connectionId } },
        body: { kind: step.kind, reference: given.reference },
      }),
    ),
  );
  const tried = attempt.data;
  const problem = attempt.error instanceof Problem ? attempt.error : null;
  return (
    <Box borderTopWidth="1px" borderColor="line" pt="3" mb="3">
      <Box display="flex" gap="3" alignItems="baseline" flexWrap="wrap">
        <Button
          size="small"
          disabled={attempt.isPending || broken}
          onClick={() => {
            back.reset();
            attempt.mutate();
          }}
        >
          {attempt.isPending ? "Trying …" : message ? "Try it on me" : "Try it"}
        </Button>
        <Box as="label" fontSize="13px" color="ink2" display="flex" gap="1.5" alignItems="center" flexWrap="wrap">
          {broken ? (
            "Mend what is wrong first."
          ) : (
            <>
              as a test, with the answers of
              <Select width="auto" maxW="220px" height="32px" fontSize="13px" value={leadId} onChange={(e) => setLeadId(e.target.value)}>
                <option value="">whoever asked last</option>
                {leads.map((l) => (
                  <option key={l.id} value={l.id}>
                    {l.name}
                  </option>
                ))}
              </Select>
            </>
          )}
        </Box>
      </Box>
      {attempt.error &&
        (problem?.fieldError("step") ? <Fault words={problem.fieldError("step") ?? ""} /> : <ErrorTold error={attempt.error} />)}
      {tried && (
        <Box mt="3" role="status" fontSize="14px">
          <Box color={tried.end === "accepted" ? "verdigris" : "cinder"} fontWeight={600}>
            {tried.reason.replace(/\.?$/, ".")}
          </Box>
          <Box fontSize="13px" color="ink2">
            With the answers of {tried.lead}.
          </Box>
          {Object.entries(tried.results).map(([name, value]) => (
            <Box key={name} fontFamily="mono" fontSize="12px" overflowWrap="anywhere">
              {name}: {value}
            </Box>
          ))}
          {tried.exchanges.map((e, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: they are what was said, in the order in which it was said
            <Box key={i} mt="2" fontFamily="mono" fontSize="12px">
              <Box fontWeight={700} overflowWrap="anywhere">
                {e.asked}
              </Box>
              {e.sent && <Raw text={laidOut(e.sent)} />}
              <Box mt="1" fontWeight={700}>
                {e.status > 0 ? `answered ${e.status}` : "no answer"} in {span(e.tookMs / 1000)}
              </Box>
              {e.answer && <Raw text={laidOut(e.answer)} />}
            </Box>
          ))}
          {tried.curl && (
            <Box as="details" mt="2" fontSize="13px">
              <Box as="summary" cursor="pointer" width="fit-content">
                As a command to paste
              </Box>
              <ToPaste text={tried.curl} label="Copy the command" />
              <Box color="ink2">Put the key in where ••• stands.</Box>
            </Box>
          )}
          {tried.reference && !back.data && (
            <Button
              size="small"
              look="soft"
              mt="2"
              disabled={back.isPending}
              onClick={() => back.mutate({ connectionId: tried.connectionId, reference: tried.reference ?? "" })}
            >
              Take it back there
            </Button>
          )}
          {back.data && (
            <Box mt="2">
              {back.data.gone === true
                ? "It is gone there."
                : back.data.gone === null
                  ? "The service takes nothing back; it is marked as a test there."
                  : "The service did not take it back."}
            </Box>
          )}
          {back.error && <ErrorTold error={back.error} />}
        </Box>
      )}
    </Box>
  );
}

const Fault = ({ words }: { words: string }) => (
  <Box role="alert" fontSize="14px" color="cinder" mt="2">
    {words}
  </Box>
);
