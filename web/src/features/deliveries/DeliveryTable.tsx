import { Box, chakra } from "@chakra-ui/react";
import { Link, useLocation } from "react-router";
import type { Schemas } from "@/api/client";
import { usePerson } from "@/app/useSession";
import { State } from "@/ui/Page";
import { useNow } from "@/ui/serverClock";
import { cityOf, dayAndClock } from "@/ui/time";
import { howLong, standing } from "./words";

const Row = chakra(Box, {
  base: {
    display: "grid",
    gridTemplateColumns: { base: "auto 1fr", md: "118px minmax(0, 1.1fr) minmax(0, 1.1fr) minmax(0, 1.4fr)" },
    columnGap: "4",
    alignItems: "baseline",
    borderBottomWidth: "1px",
    borderColor: "line2",
    borderLeftWidth: "3px",
    py: "5px",
    pl: "3",
    pr: "2",
  },
});

type DeliveryTableProps = {
  rows: readonly Schemas["DeliveryRow"][];
  at: number;
  open: string | undefined;
  picked: ReadonlySet<string> | undefined;
  onPick: (id: string) => void;
  zone: string;
};

/** Deliveries as lines: where each stands, what it was, for whom it went where, and the last word on it. */
export function DeliveryTable({ rows, at, open, picked, onPick, zone }: DeliveryTableProps) {
  const now = useNow(5000);
  const { search } = useLocation();
  const many = usePerson().clients.length > 1;
  return (
    <Box>
      <Row
        borderLeftColor="transparent"
        borderColor="line"
        fontSize="13px"
        color="ink2"
        display={{ base: "none", md: "grid" }}
        py="1"
        aria-hidden
      >
        <span>stands</span>
        <span>what, about whom</span>
        <span>where, when in {cityOf(zone)}</span>
        <span>the last word on it</span>
      </Row>
      {rows.map((row, i) => {
        const is = standing(row);
        return (
          <Row
            key={row.id}
            borderLeftColor={i === at ? "ink" : "transparent"}
            bg={row.id === open || i === at ? "card" : undefined}
            fontSize="14px"
            _hover={{ bg: "card" }}
          >
            <Box display="flex" gap="2" alignItems="baseline">
              {picked && (
                <input
                  type="checkbox"
                  aria-label={`Choose ${row.step ?? row.what} for ${row.lead}`}
                  checked={picked.has(row.id)}
                  onChange={() => onPick(row.id)}
                />
              )}
              <State of={is.of}>{is.word}</State>
            </Box>
            <Box minW="0">
              <chakra.span fontWeight={600} _hover={{ textDecoration: "underline" }}>
                <Link to={{ pathname: `/deliveries/${row.id}`, search }}>{row.step ?? row.what}</Link>
              </chakra.span>
              <Box fontSize="13px" color="ink2" truncate>
                {row.lead} {row.test && <State of="waiting">test</State>}
              </Box>
            </Box>
            <Box minW="0" gridColumn={{ base: "2", md: "auto" }}>
              <Box truncate>
                {row.connection}
                {many && (
                  <Box as="span" color="ink2">
                    {" "}
                    · {row.client}
                  </Box>
                )}
              </Box>
              <Box fontFamily="mono" fontSize="12px" color="ink2" truncate>
                {dayAndClock(row.madeAt, now, zone, true)}
              </Box>
            </Box>
            <Box minW="0" gridColumn={{ base: "2", md: "auto" }} fontSize="13px">
              <Box color={is.of === "broken" ? "cinder" : "ink"} overflowWrap="anywhere" lineClamp={2}>
                {row.reason ?? "not tried yet"}
              </Box>
              <Box color="ink2">
                {[row.attempts > 1 ? `${row.attempts} attempts` : null, howLong(row, now)].filter(Boolean).join(" · ")}
              </Box>
            </Box>
          </Row>
        );
      })}
    </Box>
  );
}
