import { Box, chakra } from "@chakra-ui/react";
import { useTheme } from "next-themes";
import { NavLink } from "react-router";
import type { Schemas } from "@/api/client";
import { withClient } from "@/app/useChosenClient";
import { may, type Person, useSignOut } from "@/app/useSession";
import { useNotices } from "@/features/notices/useNotices";
import { useNow } from "@/ui/serverClock";
import { cityOf, clock } from "@/ui/time";
import type { LiveState } from "./useLive";

const Item = chakra(NavLink, {
  base: {
    display: "flex",
    justifyContent: "space-between",
    alignItems: "baseline",
    gap: "2",
    px: { base: "1", md: "4" },
    fontSize: { base: "13px", md: "inherit" },
    minH: { base: "48px", md: "34px" },
    py: "6px",
    color: "ink2",
    borderLeftWidth: { base: "0", md: "3px" },
    borderTopWidth: { base: "3px", md: "0" },
    borderColor: "transparent",
    "&.active": { color: "ink", fontWeight: 700, bg: "card", borderColor: "sulphur" },
    _hover: { color: "ink" },
    _focusVisible: { outline: "2px solid", outlineColor: "ink", outlineOffset: "-3px" },
  },
});

const Small = chakra("button", {
  base: {
    cursor: "pointer",
    textDecoration: "underline",
    textUnderlineOffset: "3px",
    fontSize: "13px",
    lineHeight: "24px",
    color: "ink2",
    _hover: { color: "ink" },
  },
});

type RailProps = {
  person: Person;
  chosen: string | undefined;
  counts: Schemas["FrameCounts"] | undefined;
  live: LiveState;
  onKeys: () => void;
};

const roleWords = { "agency-lead": "agency lead", marketer: "marketer", rep: "rep" } as const;

/** The sections there are, as words with counts. */
export function Rail({ person, chosen, counts, live, onKeys }: RailProps) {
  const air = counts?.clients.filter((c) => !chosen || c.key === chosen).reduce((sum, c) => sum + c.inTheAir, 0);
  const unread = useNotices().data?.unread;
  const items = [
    { to: "/", label: "Watch", count: air, shown: true },
    { to: "/leads", label: "Leads", count: counts?.leads, shown: may(person, "see-leads") },
    { to: "/sources", label: "Sources", count: counts?.forms, shown: may(person, "see-sources") },
    { to: "/fuses", label: "Fuses", count: counts?.fuses, shown: may(person, "see-fuses") },
    { to: "/deliveries", label: "Deliveries", count: counts?.stuck || undefined, shown: may(person, "see-sources") },
    {
      to: "/notices",
      label: "Notices",
      count: unread || undefined,
      shown: may(person, "see-leads") && (Boolean(unread) || !may(person, "edit-sources")),
    },
    { to: "/setup", label: "Setup", count: undefined, shown: may(person, "edit-sources") },
  ].filter((i) => i.shown);
  return (
    <Box
      width={{ base: "full", md: "148px" }}
      flexShrink={0}
      display="flex"
      flexDirection="column"
      borderRightWidth={{ base: "0", md: "1px" }}
      borderTopWidth={{ base: "1px", md: "0" }}
      bg="paper"
      position="sticky"
      top={{ base: "auto", md: "49px" }}
      bottom="0"
      height={{ base: "auto", md: "calc(100vh - 49px)" }}
      zIndex="5"
    >
      <Box
        as="nav"
        aria-label="Sections"
        display="flex"
        flexDirection={{ base: "row", md: "column" }}
        overflowX={{ base: "auto", md: "visible" }}
        pt={{ base: "0", md: "3" }}
        justifyContent="space-around"
      >
        {items.map((item) => (
          <Item key={item.to} to={withClient(item.to, person.clients.length > 1 ? chosen : undefined)} end={item.to === "/"}>
            <span>{item.label}</span>
            <Box
              as="span"
              fontFamily="mono"
              fontSize="12px"
              fontWeight={400}
              color="ink2"
              display={{ base: item.to === "/" ? "inline" : "none", md: "inline" }}
            >
              {item.count?.toLocaleString("en-GB").replace(",", " ")}
            </Box>
          </Item>
        ))}
      </Box>
      <Box display={{ base: "none", md: "block" }} mt="auto" px="4" pb="4" fontSize="13px" color="ink2">
        <Whoami person={person} chosen={chosen} live={live} />
        <Box display="flex" flexWrap="wrap" columnGap="3" mt="2">
          {may(person, "see-leads") && !unread && (
            <Small asChild>
              <NavLink to="/notices">Notices</NavLink>
            </Small>
          )}
          <ThemePick />
          <Small type="button" onClick={onKeys}>
            Keys
          </Small>
          <SignOut />
        </Box>
      </Box>
    </Box>
  );
}

function Whoami({ person, chosen, live }: { person: Person; chosen: string | undefined; live: LiveState }) {
  const now = useNow(1000);
  const client = person.clients.find((c) => c.key === chosen) ?? person.clients[0];
  const zone = client?.zone ?? "Europe/London";
  return (
    <>
      <Box color="ink">{person.name}</Box>
      <Box>{client ? roleWords[client.role] : ""}</Box>
      <Box fontFamily="mono" fontSize="12px" whiteSpace="nowrap" mt="1">
        {clock(now, zone)} {cityOf(zone)}
      </Box>
      <Box fontFamily="mono" fontSize="12px">
        {live === "live" ? "◆ live" : live === "joining" ? "◇ joining" : "◇ line lost"}
      </Box>
      {!person.takesCalls && (
        <Box fontFamily="mono" fontSize="12px">
          ◇ no calls to you
        </Box>
      )}
    </>
  );
}

function ThemePick() {
  const { resolvedTheme, setTheme } = useTheme();
  const dark = resolvedTheme === "dark";
  return (
    <Small type="button" onClick={() => setTheme(dark ? "light" : "dark")}>
      {dark ? "Light" : "Dark"}
    </Small>
  );
}

function SignOut() {
  const signOut = useSignOut();
  return (
    <Small type="button" onClick={() => signOut.mutate()}>
      Sign out
    </Small>
  );
}
