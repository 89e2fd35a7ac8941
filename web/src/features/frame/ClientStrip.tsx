import { Box, chakra } from "@chakra-ui/react";
import { Link, useLocation } from "react-router";
import type { Schemas } from "@/api/client";
import { withClient } from "@/app/useChosenClient";
import type { Person } from "@/app/useSession";

const Chip = chakra(Link, {
  base: {
    display: "block",
    px: "4",
    py: "7px",
    minW: { base: "120px", md: "150px" },
    flexShrink: 0,
    borderLeftWidth: "1px",
    borderColor: "stripLine",
    borderBottomWidth: "3px",
    borderBottomColor: "transparent",
    whiteSpace: "nowrap",
    textDecoration: "none",
    "&[aria-current=true]": { bg: "#2B2F30", borderBottomColor: "#B9CC2E" },
    _hover: { bg: "#2B2F30" },
    _focusVisible: { outline: "2px solid #EFF1EC", outlineOffset: "-3px" },
  },
});

type StripProps = { person: Person; chosen: string | undefined; counts: readonly Schemas["FrameClient"][] | undefined; onGo: () => void };

/** One chip a client; a press narrows everything to it, another widens it again. */
export function ClientStrip({ person, chosen, counts, onGo }: StripProps) {
  const { pathname } = useLocation();
  // A lead or a fuse belongs to one client: narrowing from its page leads to the list it stands in.
  const base = pathname.split("/").length > 2 ? `/${pathname.split("/")[1]}` : pathname;
  const all = (counts ?? []).reduce((sum, c) => ({ air: sum.air + c.inTheAir, late: sum.late + c.late, cut: sum.cut + c.linesCut }), {
    air: 0,
    late: 0,
    cut: 0,
  });
  const several = person.clients.length > 1;
  return (
    <Box as="header" bg="charcoal" color="saltpetre" display="flex" alignItems="stretch" minH="46px" position="sticky" top="0" zIndex="10">
      <Box
        asChild
        display="flex"
        alignItems="center"
        gap="2.5"
        px="4"
        width={{ base: "auto", md: "148px" }}
        flexShrink={0}
        fontWeight={700}
        fontSize="16px"
      >
        <Link to={withClient("/", chosen)} aria-label="Lit Fuse: to the Watch">
          <Box width="10px" height="10px" bg="#B9CC2E" transform="rotate(45deg)" aria-hidden />
          <Box display={{ base: "none", md: "inline" }}>Lit Fuse</Box>
        </Link>
      </Box>
      <Box as="nav" aria-label="Clients" display="flex" overflowX="auto" flex="1" minW="0">
        {person.clients.map((client) => {
          const count = counts?.find((c) => c.id === client.id);
          const here = several && client.key === chosen;
          return (
            <Chip
              key={client.id}
              to={here ? base : withClient(base, several ? client.key : undefined)}
              aria-current={here || !several ? "true" : undefined}
            >
              <Box fontWeight={700} fontSize="13px" lineHeight="17px">
                {client.shortName}
              </Box>
              <Counts
                air={count?.inTheAir}
                late={count?.late}
                cut={count?.linesCut}
                waiting={count?.waiting}
                held={count !== undefined && count.heldAt !== null}
              />
            </Chip>
          );
        })}
        {several && (
          <Chip to={base} aria-current={chosen === undefined ? "true" : undefined}>
            <Box fontWeight={700} fontSize="13px" lineHeight="17px">
              All clients
            </Box>
            <Counts air={counts ? all.air : undefined} late={all.late} cut={all.cut} waiting={0} />
          </Chip>
        )}
      </Box>
      <chakra.button
        type="button"
        onClick={onGo}
        m="8px"
        px="3"
        minW={{ base: "auto", md: "210px" }}
        borderWidth="1px"
        borderColor="#7A8280"
        borderRadius="sm"
        display="flex"
        alignItems="center"
        justifyContent="space-between"
        gap="3"
        fontSize="13px"
        cursor="pointer"
        whiteSpace="nowrap"
        _focusVisible={{ outline: "2px solid #EFF1EC", outlineOffset: "2px" }}
      >
        <span>Go to / Do</span>
        <Box as="span" fontFamily="mono" fontSize="12px" color="stripMuted" display={{ base: "none", md: "inline" }}>
          Ctrl K
        </Box>
      </chakra.button>
    </Box>
  );
}

type CountsProps = {
  air: number | undefined;
  late: number | undefined;
  cut: number | undefined;
  waiting: number | undefined;
  held?: boolean;
};

function Counts({ air, late = 0, cut = 0, waiting = 0, held = false }: CountsProps) {
  return (
    <Box fontFamily="mono" fontSize="11px" lineHeight="14px" color="stripMuted">
      {air === undefined ? " " : `${air} in the air`}
      {held && " · held"}
      {late > 0 && (
        <Box as="span" color="stripCinder">
          {" · "}
          {late} late
        </Box>
      )}
      {cut > 0 && (
        <Box
          as="span"
          color="stripCinder"
          title={`${cut} ${cut === 1 ? "line is" : "lines are"} cut${waiting > 0 ? `; ${waiting} wait for it` : ""}`}
        >
          {" · "}
          {waiting > 0 ? `${cut} cut, ${waiting} wait` : `${cut} cut`}
        </Box>
      )}
    </Box>
  );
}
