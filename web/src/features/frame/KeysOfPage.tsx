import { Box, chakra } from "@chakra-ui/react";
import { Button } from "@/ui/Button";
import { Window } from "./Window";

const everywhere: [string, string][] = [
  ["Ctrl K or ⌘ K", "Go to / Do"],
  ["?", "The keys of the page"],
  ["Esc", "Close what is open"],
];

const ofPage: { when: (path: string) => boolean; keys: [string, string][] }[] = [
  {
    when: (p) => p === "/",
    keys: [
      ["j  k", "Next lead, lead before"],
      ["Enter", "Open the lead"],
      ["t", "Take it"],
    ],
  },
  {
    when: (p) => p === "/leads",
    keys: [
      ["/", "To the search"],
      ["j  k", "Next lead, lead before"],
      ["Enter", "Open the lead"],
      ["x", "Choose it"],
    ],
  },
  {
    when: (p) => p === "/leads/pen",
    keys: [
      ["j  k", "Next, before"],
      ["x", "Choose it"],
      ["a", "Approve what is chosen, or the one here"],
    ],
  },
  {
    when: (p) => /^\/sources\/[^/]+\/map$/.test(p),
    keys: [
      ["[  ]", "The sample before, the next"],
      ["c", "Confirm the map"],
    ],
  },
  {
    when: (p) => /^\/leads\/./.test(p) && p !== "/leads/pen" && p !== "/leads/same" && p !== "/leads/new",
    keys: [
      ["t", "Take it, or give it back"],
      ["w", "Write a text"],
    ],
  },
  {
    when: (p) => /^\/fuses\/./.test(p) && p !== "/fuses/burns" && p !== "/fuses/new",
    keys: [
      ["Ctrl S", "Save the draft"],
      ["Ctrl Z", "Undo"],
      ["Ctrl Shift Z", "Do again"],
      ["Tab, Enter", "To a step or an entry, and open it"],
      ["← → ↑ ↓", "From step to step"],
      ["Alt ← →", "Move the step to an earlier or later moment"],
      ["Alt ↑ ↓", "Move the step to the band above or below"],
      ["Ctrl C, X, V", "Copy, cut, paste a step, here or into another fuse"],
      ["Delete", "Take the step out"],
    ],
  },
];

/** The keys of the page one is on. */
export function KeysOfPage({ path, onClose }: { path: string; onClose: () => void }) {
  const keys = [...(ofPage.find((p) => p.when(path))?.keys ?? []), ...everywhere];
  return (
    <Window label="Keys of this page" onClose={onClose}>
      <Box p="4">
        <chakra.h2 fontWeight={700} fontSize="16px" mb="3">
          Keys of this page
        </chakra.h2>
        <Box as="dl" display="grid" gridTemplateColumns="max-content 1fr" columnGap="5" rowGap="2" mb="4">
          {keys.map(([key, does]) => (
            <Box key={key} display="contents">
              <Box as="dt" fontFamily="mono" fontSize="13px">
                {key}
              </Box>
              <Box as="dd">{does}</Box>
            </Box>
          ))}
        </Box>
        <Button onClick={onClose}>Close</Button>
      </Box>
    </Window>
  );
}
