import { Box, chakra } from "@chakra-ui/react";
import type { ReactNode } from "react";
import type { Schemas } from "@/api/client";
import { Button } from "@/ui/Button";
import { useNow } from "@/ui/serverClock";
import { dayAndClock, span } from "@/ui/time";
import { money, type Side, type Told } from "./useBacktest";

type FiguresProps = { told: Told; whole: Schemas["BacktestDetail"]; zone: string; onNumber: (side: Side, mark: string) => void };
type Sides = { side: Side; head: string; of: Schemas["SideTold"] }[];

const cell = { textAlign: "right" as const, px: "1", py: "1", verticalAlign: "baseline", fontWeight: 400 };

/** The figures of a backtest. Each number opens its leads. */
export function BacktestFigures({ told, whole, zone, onNumber }: FiguresProps) {
  const sides: Sides = [
    { side: "this", head: "as it stands", of: told.this },
    ...(told.beside ? [{ side: "beside" as const, head: `armed v${whole.row.beside}`, of: told.beside }] : []),
    { side: "truth", head: "in truth", of: told.truth },
  ];
  const number = (side: Side, mark: string, value: number, what: string) => (
    <Open value={value} label={`${value}: ${what}`} onOpen={() => onNumber(side, mark)} />
  );
  const now = useNow(60_000);
  if (told.leads === 0) return <Box>In that period nobody asked through these forms.</Box>;
  return (
    <>
      <Table
        caption={
          <>
            <b>{told.leads}</b> leads, each once, by what they sent first
          </>
        }
        sides={sides}
      >
        <Row head="light it" sides={sides} of={(s) => number(s.side, "lit", s.of.lit, `lit, ${s.head}`)} />
        <Row head="are taken by no band" sides={sides} of={(s) => number(s.side, "no-band", s.of.noBand, `no band, ${s.head}`)} />
        <Row head="hear something" sides={sides} of={(s) => number(s.side, "spoken", s.of.spoken, `hear something, ${s.head}`)} />
        <Row
          head="wait for their hours"
          sides={sides}
          of={(s) => (s.side === "truth" ? "–" : number(s.side, "waited", s.of.waited, `wait for hours, ${s.head}`))}
        />
        <Row head="first message: half sooner than" sides={sides} of={(s) => spanOf(s.of.firstMedianSeconds)} />
        <Row head="nine in ten sooner than" sides={sides} of={(s) => spanOf(s.of.firstSlowSeconds)} />
        <Row head="messages to them" sides={sides} of={(s) => s.of.messages} />
        <Row head="texts" sides={sides} of={(s) => s.of.texts} />
        <Row head="their segments" sides={sides} of={(s) => s.of.segments} />
        {whole.segmentPrice !== null && (
          <Row head="they cost" sides={sides} of={(s) => money(s.of.segments * Number(whole.segmentPrice), whole.currency)} />
        )}
      </Table>
      {told.notLit.length > 0 && (
        <Section title="Why it is not lit">
          <chakra.ul listStyleType="none" fontSize="14px">
            {told.notLit.map((n) => (
              <li key={n.because}>
                <Mono>{n.leads}</Mono> {n.because}
              </li>
            ))}
          </chakra.ul>
        </Section>
      )}
      <Section title="Messages a lead gets">
        <Table sides={sides}>
          {told.this.perLead.map((_, n) =>
            sides.some((s) => (s.of.perLead[n] ?? 0) > 0) ? (
              <Row
                // biome-ignore lint/suspicious/noArrayIndexKey: the place is the number of messages
                key={n}
                head={n === told.this.perLead.length - 1 ? `${n} or more` : n === 0 ? "none" : String(n)}
                sides={sides}
                of={(s) => number(s.side, `messages:${n}`, s.of.perLead[n] ?? 0, `${n} messages, ${s.head}`)}
                bar={(told.this.perLead[n] ?? 0) / told.leads}
              />
            ) : null,
          )}
        </Table>
      </Section>
      <Section title="Band by band">
        <Steps sides={sides} told={told} number={number} />
      </Section>
      {told.this.desks.length > 0 && (
        <Section title="Whom the team's steps tell, as it stands">
          <chakra.table width="full" fontSize="14px">
            <thead>
              <chakra.tr fontSize="12px" color="ink2">
                <chakra.th textAlign="left" fontWeight={400}>
                  who
                </chakra.th>
                <chakra.th {...cell}>times</chakra.th>
                <chakra.th {...cell}>an hour</chakra.th>
                <chakra.th {...cell}>busiest hour</chakra.th>
              </chakra.tr>
            </thead>
            <tbody>
              {told.this.desks.map((d) => (
                <chakra.tr key={d.who} borderTopWidth="1px" borderColor="line2">
                  <chakra.th scope="row" textAlign="left" fontWeight={400} overflowWrap="anywhere">
                    {d.who}
                  </chakra.th>
                  <chakra.td {...cell}>
                    <Mono>{d.leads}</Mono>
                  </chakra.td>
                  <chakra.td {...cell}>
                    <Mono>{d.anHour}</Mono>
                  </chakra.td>
                  <chakra.td {...cell}>
                    <Mono>{d.most}</Mono>{" "}
                    <Box as="span" color="ink2" fontSize="12px" whiteSpace="nowrap">
                      {dayAndClock(d.mostAt, now, zone)}
                    </Box>
                  </chakra.td>
                </chakra.tr>
              ))}
            </tbody>
          </chakra.table>
        </Section>
      )}
    </>
  );
}

const spanOf = (seconds: number | null) => (seconds === null ? "–" : span(seconds));

// Bands and steps of the fuse as it stands; of the armed version those with the same id.
function Steps({
  sides,
  told,
  number,
}: {
  sides: Sides;
  told: Told;
  number: (side: Side, mark: string, value: number, what: string) => ReactNode;
}) {
  const find = (of: Schemas["SideTold"], id: string) => of.steps.find((s) => s.id === id);
  return (
    <Table sides={sides}>
      {told.this.bands.map((band) => [
        <Row
          key={band.id}
          strong
          head={band.name}
          sides={sides}
          of={(s) => {
            const same = s.of.bands.find((b) => b.id === band.id);
            return same ? number(s.side, `band:${band.id}`, same.leads, `${band.name}, ${s.head}`) : "–";
          }}
        />,
        ...told.this.steps
          .filter((s) => s.bandId === band.id)
          .flatMap((step) => {
            const rest = (["waited", "cancelled", "failed"] as const).filter((what) =>
              sides.some((s) => (find(s.of, step.id)?.[what] ?? 0) > 0),
            );
            return [
              <Row
                key={step.id}
                head={step.name}
                sides={sides}
                of={(s) => {
                  const same = find(s.of, step.id);
                  return same ? number(s.side, `step-sent:${step.id}`, same.sent, `${step.name} goes out, ${s.head}`) : "–";
                }}
              />,
              ...rest.map((what) => (
                <Row
                  key={`${step.id}.${what}`}
                  quiet
                  head={{ waited: "waits for its hours", cancelled: "cancelled", failed: "nothing to say, or nobody to carry it" }[what]}
                  sides={sides}
                  of={(s) => {
                    const same = find(s.of, step.id);
                    if (!same || (s.side === "truth" && what === "waited")) return "–";
                    return number(s.side, `step-${what}:${step.id}`, same[what], `${step.name} ${what}, ${s.head}`);
                  }}
                />
              )),
            ];
          }),
      ])}
    </Table>
  );
}

function Section({ title, children }: { title: string; children: ReactNode }) {
  return (
    <Box as="section" aria-label={title} borderTopWidth="1px" borderColor="ink" pt="2" mt="4">
      <chakra.h3 fontSize="14px" fontWeight={700} mb="1">
        {title}
      </chakra.h3>
      {children}
    </Box>
  );
}

function Table({ caption, sides, children }: { caption?: ReactNode; sides: Sides; children: ReactNode }) {
  return (
    <chakra.table width="full" fontSize="14px">
      {caption && (
        <chakra.caption textAlign="left" captionSide="top" pb="1">
          {caption}
        </chakra.caption>
      )}
      <thead>
        <chakra.tr fontSize="12px" color="ink2">
          <td />
          {sides.map((s) => (
            <chakra.th key={s.side} scope="col" {...cell} width="76px">
              {s.head}
            </chakra.th>
          ))}
        </chakra.tr>
      </thead>
      <tbody>{children}</tbody>
    </chakra.table>
  );
}

function Row({
  head,
  sides,
  of,
  strong,
  quiet,
  bar,
}: {
  head: string;
  sides: Sides;
  of: (side: Sides[number]) => ReactNode;
  strong?: boolean;
  quiet?: boolean;
  /** A share to be drawn under the head, 0 to 1. */
  bar?: number;
}) {
  return (
    <chakra.tr borderTopWidth="1px" borderColor={strong ? "ink" : "line2"}>
      <chakra.th
        scope="row"
        textAlign="left"
        fontWeight={strong ? 700 : 400}
        color={quiet ? "ink2" : undefined}
        pl={strong ? "0" : quiet ? "5" : "2"}
        fontSize={quiet ? "13px" : undefined}
        overflowWrap="anywhere"
      >
        {head}
        {bar !== undefined && <Box h="4px" bg="ink2" aria-hidden style={{ width: `${Math.max(bar * 100, bar > 0 ? 1 : 0)}%` }} />}
      </chakra.th>
      {sides.map((s) => (
        <chakra.td key={s.side} {...cell}>
          <Mono>{of(s)}</Mono>
        </chakra.td>
      ))}
    </chakra.tr>
  );
}

const Mono = ({ children }: { children: ReactNode }) => (
  <Box as="span" fontFamily="mono" fontSize="13px">
    {children}
  </Box>
);

function Open({ value, label, onOpen }: { value: number; label: string; onOpen: () => void }) {
  return value === 0 ? (
    <>0</>
  ) : (
    <Button look="quiet" fontFamily="mono" fontSize="13px" fontWeight={400} aria-label={label} onClick={onOpen}>
      {value}
    </Button>
  );
}
