import { Box } from "@chakra-ui/react";
import { createContext, Suspense, useContext, useState } from "react";
import { Outlet, useLocation, useSearchParams } from "react-router";
import { chosenOf } from "@/app/useChosenClient";
import { useFrame } from "@/app/useFrame";
import { useGlobalKeys } from "@/app/useKeys";
import type { Person } from "@/app/useSession";
import { useAnnounced } from "@/features/notices/useAnnounced";
import { ClientStrip } from "./ClientStrip";
import { GoToDo } from "./GoToDo";
import { HeldBanner } from "./HeldBanner";
import { KeysOfPage } from "./KeysOfPage";
import { Rail } from "./Rail";
import { type LiveState, useLive } from "./useLive";

const LiveLine = createContext<LiveState>("joining");

/** Whether the live line is up. */
export const useLiveState = () => useContext(LiveLine);

export function Frame({ person }: { person: Person }) {
  const [search] = useSearchParams();
  const { pathname } = useLocation();
  const chosen = chosenOf(person, search.get("client"));
  const live = useLive();
  const frame = useFrame(chosen?.key);
  const [open, setOpen] = useState<"go" | "keys" | null>(null);
  useAnnounced();
  useGlobalKeys({ go: () => setOpen("go"), keys: () => setOpen("keys") });
  return (
    <LiveLine value={live}>
      <Box display="flex" flexDirection="column" minH="100vh">
        <Box asChild position="absolute" left="2" top="-60px" bg="card" p="2" zIndex="20" _focusVisible={{ top: "2" }}>
          <a href="#page">Skip to the page</a>
        </Box>
        <ClientStrip person={person} chosen={chosen?.key} counts={frame.data?.clients} onGo={() => setOpen("go")} />
        {live === "lost" && (
          <Box role="status" bg="cinder" color="paper" px="4" py="1.5" fontSize="14px" fontWeight={600}>
            The live line is lost. What you see may be old; it is fetched anew as soon as the line is back.
          </Box>
        )}
        <HeldBanner person={person} chosen={chosen?.key} counts={frame.data?.clients} />
        <Box flex="1" display="flex" flexDirection={{ base: "column-reverse", md: "row" }} minH="0">
          <Rail person={person} chosen={chosen?.key} counts={frame.data} live={live} onKeys={() => setOpen("keys")} />
          <Box
            as="main"
            id="page"
            tabIndex={-1}
            flex="1"
            minW="0"
            display="flex"
            flexDirection="column"
            _focusVisible={{ outline: "none" }}
          >
            <Suspense fallback={null}>
              <Outlet />
            </Suspense>
          </Box>
        </Box>
      </Box>
      {open === "go" && <GoToDo person={person} chosen={chosen?.key} onClose={() => setOpen(null)} />}
      {open === "keys" && <KeysOfPage path={pathname} onClose={() => setOpen(null)} />}
    </LiveLine>
  );
}
