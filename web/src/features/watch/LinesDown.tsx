import { Box } from "@chakra-ui/react";
import { Link } from "react-router";
import type { Schemas } from "@/api/client";
import { usePerson } from "@/features/accounts/useSession";
import { withClient } from "@/features/frame/useChosenClient";
import { accessWord } from "@/features/sources/words";
import { SectionHead, State } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { secondsBetween, span } from "@/ui/time";

type Props = { watch: Schemas["WatchPage"]; clientKey: string | undefined; showClient: boolean };

/** What nothing comes through, with its mend; and what waits for a person's word. */
export function LinesDown({ watch, clientKey, showClient }: Props) {
  const now = useNow(5000);
  const person = usePerson();
  const sees = person.clients.some((c) => c.may.includes("see-sources"));
  if (watch.linesDown.length + watch.accesses.length + watch.held + watch.conflicts + watch.tray === 0) return null;
  return (
    <Box mb="6">
      {watch.linesDown.length > 0 && (
        <SectionHead>
          Lines down{" "}
          <Box as="span" color="cinder">
            {watch.linesDown.length}
          </Box>
        </SectionHead>
      )}
      {watch.linesDown.map((line) => (
        <Box key={line.formId} borderBottomWidth="1px" borderColor="line" pb="2" mb="2">
          <Box>
            <b>{line.form}</b>{" "}
            <Box as="span" fontSize="13px" color="ink2">
              {[line.source, showClient ? line.client : null].filter(Boolean).join(" · ")}
            </Box>
          </Box>
          <Chain because={line.because} />
          <Box fontSize="14px" lineHeight="20px">
            {line.because === "map" ? "Nobody has confirmed the map" : "The form is paused"}
            {line.waiting > 0 ? (
              <>
                : <b>{line.waiting === 1 ? "1 submission waits" : `${line.waiting} submissions wait`}</b>
                {line.since && `, the first for ${span(secondsBetween(line.since, now))}`}.
              </>
            ) : (
              ": whatever comes will wait."
            )}
          </Box>
          {sees && (
            <Box fontSize="14px" fontWeight={600}>
              <Link to={withClient(line.because === "map" ? `/sources/${line.formId}/map` : `/sources/${line.formId}`, clientKey)}>
                <u>{line.because === "map" ? "Look at the map and confirm" : "Look at the form"}</u>
              </Link>
            </Box>
          )}
        </Box>
      ))}
      {watch.accesses.length > 0 && <SectionHead>Access to look after</SectionHead>}
      {watch.accesses.map((access) => (
        <Access key={access.connectionId} access={access} now={now} showClient={showClient} />
      ))}
      {watch.held > 0 && (
        <Box fontSize="14px" py="1">
          <Link to={withClient("/leads/pen", clientKey)}>
            <u>
              <b>{watch.held}</b> in the holding pen
            </u>
          </Link>
        </Box>
      )}
      {watch.tray > 0 && (
        <Box fontSize="14px" py="1">
          <Link to={withClient("/leads/tray", clientKey)}>
            <u>
              <b>{watch.tray}</b> {watch.tray === 1 ? "message" : "messages"} from nobody we know
            </u>
          </Link>
        </Box>
      )}
      {watch.conflicts > 0 && (
        <Box fontSize="14px" py="1">
          <Link to={withClient("/leads/same", clientKey)}>
            <u>
              <b>{watch.conflicts}</b> {watch.conflicts === 1 ? "pair of leads" : "pairs of leads"} may be one person
            </u>
          </Link>
        </Box>
      )}
    </Box>
  );
}

function Access({ access: a, now, showClient }: { access: Schemas["AccessAilment"]; now: number; showClient: boolean }) {
  const client = usePerson().clients.find((c) => c.id === a.clientId);
  const state = accessWord(a.state);
  const left = a.expiresAt ? secondsBetween(now, a.expiresAt) : null;
  return (
    <Box borderBottomWidth="1px" borderColor="line" pb="2" mb="2" fontSize="14px" lineHeight="20px">
      <Box display="flex" gap="2" alignItems="baseline" flexWrap="wrap">
        <Box as="b" fontSize="15px">
          {a.name}
        </Box>
        {showClient && (
          <Box as="span" fontSize="13px" color="ink2">
            {a.client}
          </Box>
        )}
        {state && a.state !== "whole" && <State of={state.of}>{state.word}</State>}
      </Box>
      {a.fault && <Box>{a.fault}</Box>}
      {left !== null && a.state !== "expired" && (
        <Box>
          {left > 0 ? (
            <>
              Runs out in <b>{span(left)}</b>; from then on nothing goes through it.
            </>
          ) : (
            `It ran out ${span(-left)} ago.`
          )}
        </Box>
      )}
      {client?.may.includes("edit-sources") && (
        <Box fontWeight={600}>
          <Link to={withClient("/setup", client.key)}>
            <u>{a.state === "unreachable" ? "Look at the connection" : "Renew it"}</u>
          </Link>
        </Box>
      )}
    </Box>
  );
}

// The joints before the break are whole: the form is there, and what it sends arrives.
function Chain({ because }: { because: string }) {
  const joints = ["source", "form", "map", "lead"];
  const cut = because === "map" ? 2 : 1;
  return (
    <svg
      width="200"
      height="16"
      role="img"
      aria-label={`The line is cut at the ${joints[cut]}`}
      style={{ display: "block", margin: "2px 0" }}
    >
      {joints.map((joint, i) => (
        <g key={joint}>
          {i > 0 && (
            <line
              x1={8 + (i - 1) * 60}
              x2={8 + i * 60}
              y1="8"
              y2="8"
              stroke={i < cut ? "var(--chakra-colors-verdigris)" : i === cut ? "var(--chakra-colors-cinder)" : "var(--chakra-colors-line)"}
              strokeWidth="2"
              strokeDasharray={i === cut ? "3 4" : undefined}
            />
          )}
          <path
            d={`M${3 + i * 60} 8l5 -5l5 5l-5 5z`}
            fill={i < cut ? "var(--chakra-colors-verdigris)" : "var(--chakra-colors-shade)"}
            stroke={i < cut ? "var(--chakra-colors-verdigris)" : i === cut ? "var(--chakra-colors-cinder)" : "var(--chakra-colors-slate)"}
          />
        </g>
      ))}
    </svg>
  );
}
