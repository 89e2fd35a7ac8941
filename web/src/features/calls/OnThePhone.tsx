import { Box } from "@chakra-ui/react";
import { Link } from "react-router";
import { withClient } from "@/app/useChosenClient";
import { may, usePerson } from "@/app/useSession";
import { SectionHead } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { CallLine } from "./CallLine";
import { type Call, useCalls } from "./useCalls";

/** All calls that go on, on the Watch; nothing while there are none. */
export function OnThePhone({ clientKey }: { clientKey: string | undefined }) {
  const person = usePerson();
  const calls = useCalls(clientKey).data?.calls ?? [];
  if (calls.length === 0) return null;
  return (
    <Box mb="4">
      <SectionHead>
        On the phone{" "}
        <Box as="span" color="ink2">
          {calls.length}
        </Box>
      </SectionHead>
      <Lines calls={calls} mayHangUp={may(person, "touch-leads")} clientKey={clientKey} />
    </Box>
  );
}

/** The call of one lead, on its page. */
export function CallOfLead({ leadId, mayHangUp }: { leadId: string; mayHangUp: boolean }) {
  const calls = (useCalls().data?.calls ?? []).filter((c) => c.leadId === leadId);
  return calls.length === 0 ? null : (
    <Box maxW="760px" mt="2">
      <Lines calls={calls} mayHangUp={mayHangUp} />
    </Box>
  );
}

type LinesProps = { calls: readonly Call[]; mayHangUp: boolean; clientKey?: string | undefined };

// The clock ticks only while there is a call.
function Lines({ calls, mayHangUp, clientKey }: LinesProps) {
  const now = useNow(500);
  return calls.map((call) => (
    <CallLine
      key={call.id}
      call={call}
      now={now}
      mayHangUp={mayHangUp}
      lead={<Link to={withClient(`/leads/${call.leadId}`, clientKey)}>{call.lead}</Link>}
    />
  ));
}
