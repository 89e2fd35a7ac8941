import { Box, chakra } from "@chakra-ui/react";
import { NavLink } from "react-router";
import { useChosenClient, withClient } from "@/app/useChosenClient";
import { useFrame } from "@/app/useFrame";

const Tab = chakra(NavLink, {
  base: {
    py: "6px",
    mr: "5",
    color: "ink2",
    borderBottomWidth: "3px",
    borderColor: "transparent",
    "&.active": { color: "ink", fontWeight: 700, borderColor: "sulphur" },
    _hover: { color: "ink" },
    _focusVisible: { outline: "2px solid", outlineColor: "ink", outlineOffset: "2px" },
  },
});

/** Leads, and what is not one yet or may be two. */
export function LeadTabs() {
  const chosen = useChosenClient();
  const frame = useFrame(chosen?.key);
  const count = (n: number | undefined) =>
    n ? (
      <Box as="span" fontFamily="mono" fontSize="12px" fontWeight={400}>
        {" "}
        {n}
      </Box>
    ) : null;
  return (
    <Box as="nav" aria-label="Leads" display="flex" borderBottomWidth="1px" mb="3" fontSize="14px">
      <Tab to={withClient("/leads", chosen?.key)} end>
        All leads
      </Tab>
      <Tab to={withClient("/leads/pen", chosen?.key)}>Holding pen{count(frame.data?.held)}</Tab>
      <Tab to={withClient("/leads/same", chosen?.key)}>Same person?{count(frame.data?.conflicts)}</Tab>
      <Tab to={withClient("/leads/tray", chosen?.key)}>Tray{count(frame.data?.tray)}</Tab>
    </Box>
  );
}
