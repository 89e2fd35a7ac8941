import { Box } from "@chakra-ui/react";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, type Schemas, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { SectionHead, State } from "@/ui/Page";
import { ErrorTold } from "@/ui/Told";
import { dayAndClock } from "@/ui/time";
import { useAct } from "@/ui/useAct";

type Part = { whole: Schemas["LeadDetail"]; mayTouch: boolean; now: number; zone: string };

/** What stands in the way of this lead, at the top of its page: nobody must miss it. */
export function Warnings({ whole, mayTouch, now, zone }: Part) {
  const { around, lead } = whole;
  const stale: string[][] = [["lead", lead.id], ["leads"], ["conflicts"], ["watch"], ["frame"]];
  const merge = useAct((gone: string) => unwrap(api.POST("/api/leads/merge", { body: { keep: lead.id, gone } })), ...stale);
  const apart = useAct(
    (conflictId: string) => unwrap(api.POST("/api/conflicts/{conflictId}/apart", { params: { path: { conflictId } } })),
    ...stale,
  );
  const undo = useAct(
    (regroupId: string) => unwrap(api.POST("/api/regroups/{regroupId}/undo", { params: { path: { regroupId } } })),
    ...stale,
  );
  const works = useAct(() => unwrap(api.POST("/api/leads/{leadId}/email-works", { params: { path: { leadId: lead.id } } })), ...stale);
  const error = merge.error ?? apart.error ?? undo.error ?? works.error;
  return (
    <>
      {around.doNotContactAt && (
        <Warning>
          <State of="broken">do not contact</State> On the list since {dayAndClock(around.doNotContactAt, now, zone)}. Nothing automatic
          speaks to them; please do not ring or write either.
        </Warning>
      )}
      {whole.emailBouncedAt && (
        <Warning>
          <State of="broken">letters come back</State> Since {dayAndClock(whole.emailBouncedAt, now, zone)}: {whole.emailBouncedBecause}.
          Nothing automatic is written to {lead.email}.
          {mayTouch && (
            <Box mt="1">
              <Button size="small" disabled={works.isPending} onClick={() => works.mutate()}>
                The address works
              </Button>
            </Box>
          )}
        </Warning>
      )}
      {around.waitsToConfirm && (
        <Warning quiet>
          <State of="waiting">waits for them</State> Asked {dayAndClock(around.waitsToConfirm, now, zone)} to confirm their address
          {around.confirmExpiresAt && `, by ${dayAndClock(around.confirmExpiresAt, now, zone)}`}. Nothing else happens until they do.
        </Warning>
      )}
      {lead.test && (
        <Warning quiet>
          <State of="waiting">test</State>{" "}
          {around.onlyTo
            ? `All of it goes to ${around.onlyTo}'s own addresses.`
            : "It goes down the real line, and says that it is a test."}{" "}
          It counts in no figure.
        </Warning>
      )}
      {around.twins.map((twin) => (
        <Warning key={twin.conflictId}>
          <State of="broken">may be two</State> {twin.words}. Is{" "}
          <Link to={`/leads/${twin.leadId}`}>
            <u>{twin.name}</u>
          </Link>{" "}
          the same person?
          {mayTouch && (
            <Box display="flex" gap="2" mt="1">
              <Button size="small" disabled={merge.isPending} onClick={() => merge.mutate(twin.leadId)}>
                Yes, make them one
              </Button>
              <Button size="small" look="soft" disabled={apart.isPending} onClick={() => apart.mutate(twin.conflictId)}>
                No, two people
              </Button>
            </Box>
          )}
        </Warning>
      ))}
      {around.regroups.map((r) => (
        <Box key={r.id} fontSize="13px" color="ink2" mb="2">
          {r.kind === "merge" ? `${r.other} was merged in` : `${r.other} was split off`} by {r.by}, {dayAndClock(r.at, now, zone)}.{" "}
          {mayTouch && (
            <Button look="quiet" fontSize="13px" disabled={undo.isPending} onClick={() => undo.mutate(r.id)}>
              Take it back
            </Button>
          )}
        </Box>
      ))}
      {error && <ErrorTold error={error} />}
    </>
  );
}

function Warning({ children, quiet }: { children: React.ReactNode; quiet?: boolean }) {
  return (
    <Box borderLeftWidth="4px" borderColor={quiet ? "slate" : "cinder"} bg="card" p="3" mb="3" fontSize="14px" role="note">
      {children}
    </Box>
  );
}

/** Their addresses, the consents they gave, and the do-not-contact list. */
export function Consents({ whole, mayTouch, now, zone }: Part) {
  const { around, lead } = whole;
  const [sure, setSure] = useState(false);
  const ban = useAct(
    () =>
      unwrap(
        api.POST("/api/do-not-contact", {
          body: { client: whole.clientKey, addresses: around.addresses.map((a) => a.value).join("\n"), reason: "asked on their page" },
        }),
      ),
    ["lead", lead.id],
    ["do-not-contact"],
  );
  return (
    <Box mt="5" fontSize="14px">
      <SectionHead>Consent</SectionHead>
      {around.consents.length === 0 && <Box color="ink2">None is on record.</Box>}
      {around.consents.map((c) => (
        <Box key={`${c.at}${c.how}${c.words}`} py="1" borderTopWidth="1px" borderColor="line">
          <Box fontSize="12px" color={c.how === "declined" ? "cinder" : "ink2"}>
            {consentWord[c.how]} {dayAndClock(c.at, now, zone, true)}
            {c.fromAddress && `, from ${c.fromAddress}`} · {c.source}
          </Box>
          <Box>
            “{c.words}”{" "}
            <Box as="span" fontSize="12px" color="ink2">
              version {c.version}
            </Box>{" "}
            {c.privacyUrl && (
              <a href={c.privacyUrl} target="_blank" rel="noreferrer">
                <u>notice</u>
              </a>
            )}
          </Box>
        </Box>
      ))}
      {around.addresses.length > 2 && (
        <Box mt="2">
          <Box fontSize="12px" color="ink2">
            known by
          </Box>
          {around.addresses.map((a) => (
            <Box key={a.value} fontFamily="mono" fontSize="13px" overflowWrap="anywhere">
              {a.value} {a.unwanted && <State of="broken">do not contact</State>}
            </Box>
          ))}
        </Box>
      )}
      {mayTouch && !around.doNotContactAt && around.addresses.length > 0 && (
        <Box mt="2">
          {sure ? (
            <>
              Put all their addresses on the do-not-contact list?{" "}
              <Button size="small" disabled={ban.isPending} onClick={() => ban.mutate()}>
                Yes
              </Button>{" "}
              <Button look="quiet" onClick={() => setSure(false)}>
                No
              </Button>
            </>
          ) : (
            <Button look="quiet" fontSize="13px" onClick={() => setSure(true)}>
              Do not contact them at all
            </Button>
          )}
        </Box>
      )}
      {ban.error && <ErrorTold error={ban.error} />}
    </Box>
  );
}

const consentWord: Record<Schemas["ConsentHow"], string> = {
  shown: "stood beside the button",
  ticked: "agreed",
  confirmed: "confirmed by letter",
  declined: "did not agree",
};

/** All that they sent, in the words of each form, with what came along; some of it may be another person's. */
export function Submissions({ whole, mayTouch, now, zone }: Part) {
  const navigate = useNavigate();
  const [splitting, setSplitting] = useState(false);
  const [theirs, setTheirs] = useState<ReadonlySet<string>>(new Set());
  const split = useAct(
    () =>
      unwrap(api.POST("/api/leads/{leadId}/split", { params: { path: { leadId: whole.lead.id } }, body: { submissions: [...theirs] } })),
    ["lead", whole.lead.id],
    ["leads"],
  );
  const list = [...whole.submissions].reverse();
  return (
    <>
      {list.map((s, i) => (
        <Box key={s.id} mt="5">
          <SectionHead>
            {splitting && (
              <input
                type="checkbox"
                aria-label={`${s.form} of ${dayAndClock(s.receivedAt, now, zone)} is another person's`}
                checked={theirs.has(s.id)}
                onChange={() =>
                  setTheirs((before) => {
                    const next = new Set(before);
                    if (!next.delete(s.id)) next.add(s.id);
                    return next;
                  })
                }
                style={{ marginRight: 8 }}
              />
            )}
            {i === 0 ? "What they answered" : "Earlier"}{" "}
            <Box as="span" fontWeight={400} color="ink2">
              {s.form}, {dayAndClock(s.receivedAt, now, zone)}
            </Box>{" "}
            {s.junk > 0 && <State of={s.junk >= 60 ? "broken" : "waiting"}>junk {s.junk}</State>}
          </SectionHead>
          <Answers answers={s.answers} />
          {s.tracking.some((t) => t.answer) && (
            <Box mt="2">
              <Box fontSize="12px" color="ink2">
                how they came
              </Box>
              {s.tracking
                .filter((t) => t.answer)
                .map((t) => (
                  <Box key={t.question} display="grid" gridTemplateColumns="112px 1fr" gap="2" fontSize="13px">
                    <Box color="ink2">{t.question}</Box>
                    <Box overflowWrap="anywhere">{t.answer}</Box>
                  </Box>
                ))}
            </Box>
          )}
        </Box>
      ))}
      {mayTouch && list.length > 1 && (
        <Box mt="3" fontSize="14px">
          {splitting ? (
            <Box display="flex" gap="3" flexWrap="wrap">
              <Button
                size="small"
                disabled={split.isPending || theirs.size === 0 || theirs.size === list.length}
                onClick={() => split.mutate(undefined, { onSuccess: (made) => void navigate(`/leads/${made.leadId}`) })}
              >
                Give {theirs.size === 1 ? "it" : "them"} to a lead of their own
              </Button>
              <Button look="quiet" onClick={() => setSplitting(false)}>
                Leave it
              </Button>
            </Box>
          ) : (
            <Button look="quiet" fontSize="13px" onClick={() => setSplitting(true)}>
              Some of it is another person's
            </Button>
          )}
          {split.error && <ErrorTold error={split.error} />}
        </Box>
      )}
    </>
  );
}

function Answers({ answers }: { answers: readonly Schemas["AnswerLine"][] }) {
  return (
    <Box as="dl" fontSize="14px">
      {answers
        .filter((a) => a.answer)
        .map((a) => (
          <Box key={a.question} py="1" borderTopWidth="1px" borderColor="line">
            <Box as="dt" color="ink2" fontSize="12px">
              {a.question}
            </Box>
            <Box as="dd" overflowWrap="anywhere" whiteSpace="pre-wrap">
              {a.answer}
            </Box>
          </Box>
        ))}
    </Box>
  );
}
