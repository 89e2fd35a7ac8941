import { Box } from "@chakra-ui/react";
import { Link } from "react-router";
import type { Schemas } from "@/api/client";
import { withClient } from "@/app/useChosenClient";
import { usePerson } from "@/app/useSession";
import { CutLine } from "@/features/continuity/CutLine";
import { MiniLine } from "@/features/continuity/JointLine";
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
  // Who cannot prove a line has nothing to do about it.
  const mended = watch.linesMended.filter((l) => person.clients.find((c) => c.id === l.clientId)?.may.includes("edit-sources"));
  if (
    watch.linesDown.length + mended.length + watch.accesses.length + watch.setAside.length + watch.held + watch.conflicts + watch.tray ===
    0
  )
    return null;
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
      {together(watch.linesDown).map(([line, others]) => {
        const client = person.clients.find((c) => c.id === line.clientId);
        const first = line.cuts[0];
        return (
          <Box
            key={line.formId}
            borderBottomWidth="1px"
            borderColor="line"
            pb="2"
            mb="2"
            role="group"
            aria-label={`The line of ${line.form}`}
          >
            <Box>
              {sees ? (
                <Link to={withClient(`/sources/${line.formId}`, clientKey)}>
                  <b>{line.form}</b>
                </Link>
              ) : (
                <b>{line.form}</b>
              )}{" "}
              <Box as="span" fontSize="13px" color="ink2">
                {[line.source, showClient ? line.client : null].filter(Boolean).join(" · ")}
              </Box>
            </Box>
            <Box my="1">
              <MiniLine line={line} width={250} />
            </Box>
            {first && <CutLine cut={first} now={now} clientKey={clientKey} may={client?.may.includes("edit-sources") ?? false} />}
            {line.waiting > 0 && line.waitingSince && (
              <Box fontSize="14px">
                The first has waited for <b>{span(secondsBetween(line.waitingSince, now))}</b>.
              </Box>
            )}
            {others.length > 0 && (
              <Box fontSize="13px" color="ink2">
                The same cuts {others.map((o) => o.form).join(", ")}.
              </Box>
            )}
            {line.cuts.length > 1 && (
              <Box fontSize="13px" color="ink2">
                {line.cuts.length === 2 ? "One more cut" : `${line.cuts.length - 1} more cuts`} behind it.
              </Box>
            )}
          </Box>
        );
      })}
      {mended.length > 0 && <Mended lines={mended} now={now} clientKey={clientKey} showClient={showClient} />}
      {watch.accesses.length > 0 && <SectionHead>Access to look after</SectionHead>}
      {watch.accesses.map((access) => (
        <Access key={access.connectionId} access={access} now={now} showClient={showClient} />
      ))}
      {watch.setAside.length > 0 && <SectionHead>Burns set aside</SectionHead>}
      {watch.setAside.map((aside) => (
        <Box key={aside.fuseId} fontSize="14px" py="1" role="group" aria-label={`Burns of ${aside.fuse} set aside`}>
          <Link to={withClient(`/fuses/burns?fuse=${aside.fuseId}&state=set-aside`, clientKey)}>
            <u>
              <b>{aside.burns}</b> {aside.burns === 1 ? "burn" : "burns"} of {aside.fuse}
            </u>
          </Link>
          {showClient ? ` · ${aside.client}` : ""}
          <Box fontSize="13px" color="ink2">
            Since {span(secondsBetween(aside.since, now))}: {aside.because}. Nothing more happens for them until somebody runs them again.
          </Box>
        </Box>
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

// What cuts many lines at once is told once, with the lines that it cuts.
function together(lines: readonly Schemas["LineRow"][]): [Schemas["LineRow"], Schemas["LineRow"][]][] {
  const groups = new Map<string, [Schemas["LineRow"], Schemas["LineRow"][]]>();
  for (const line of lines) {
    const first = line.cuts[0];
    const key = first?.joint === "service" || first?.joint === "hours" ? `${line.clientId}${first.cause}` : line.formId;
    const known = groups.get(key);
    if (known) known[1].push(line);
    else groups.set(key, [line, []]);
  }
  return [...groups.values()];
}

const mostNamed = 4;

/** What was mended and no lead has gone down since: one press away from being proved. */
function Mended({
  lines,
  now,
  clientKey,
  showClient,
}: {
  lines: readonly Schemas["MendedRow"][];
  now: number;
  clientKey: string | undefined;
  showClient: boolean;
}) {
  return (
    <Box mb="3" role="group" aria-label="Mended, to be proved">
      <SectionHead>Mended, to be proved</SectionHead>
      {lines.slice(0, mostNamed).map((line) => (
        <Box key={line.formId} fontSize="14px" py="1" display="flex" justifyContent="space-between" gap="3">
          <Box>
            <b>{line.form}</b>
            <Box color="ink2" fontSize="13px">
              {showClient && `${line.client} · `}
              {span(Math.max(0, secondsBetween(line.mendedAt, now)))} ago
            </Box>
          </Box>
          <Box whiteSpace="nowrap">
            {line.proving ? (
              "a test is on its way"
            ) : (
              <Link to={withClient(`/sources/${line.formId}?at=prove`, clientKey)} aria-label={`Prove ${line.form}`}>
                <b>
                  <u>Prove it</u>
                </b>
              </Link>
            )}
          </Box>
        </Box>
      ))}
      {lines.length > mostNamed && (
        <Box fontSize="13px" color="ink2">
          <Link to={withClient("/sources", clientKey)}>
            <u>and {lines.length - mostNamed} more</u>
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
