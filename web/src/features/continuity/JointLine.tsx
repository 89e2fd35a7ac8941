import { Box, chakra } from "@chakra-ui/react";
import { useState } from "react";
import type { Schemas } from "@/api/client";
import { sayLine } from "./lineWords";

type Line = Pick<Schemas["LineRow"], "state" | "joints" | "cuts">;

const color = { whole: "var(--chakra-colors-verdigris)", cut: "var(--chakra-colors-cinder)", unproven: "var(--chakra-colors-slate)" };
const paper = "var(--chakra-colors-paper)";

// Burnt solid as far as it holds; from the first cut on it is only drawn.
const beyond = (joints: Line["joints"], i: number) => {
  const cut = joints.findIndex((j) => j.state === "cut");
  return cut >= 0 && i > cut;
};

/** A joint's lozenge: filled where it holds, hollow where nothing has shown it, broken in two where it is cut. */
function Lozenge({ x, y, state, faint, r = 5 }: { x: number; y: number; state: Schemas["LineState"]; faint: boolean; r?: number }) {
  const stroke = color[state];
  if (state === "cut") {
    return (
      <g stroke={stroke} strokeWidth="1.6" fill="none">
        <path d={`M${x - 2.5} ${y - r}L${x - 2.5 - r} ${y}L${x - 2.5} ${y + r}`} />
        <path d={`M${x + 2.5} ${y - r}L${x + 2.5 + r} ${y}L${x + 2.5} ${y + r}`} />
      </g>
    );
  }
  return (
    <path
      d={`M${x - r} ${y}L${x} ${y - r}L${x + r} ${y}L${x} ${y + r}Z`}
      fill={state === "whole" && !faint ? stroke : paper}
      stroke={stroke}
      strokeWidth="1.4"
    />
  );
}

/** A line of joints in little: for rows and narrow places. */
export function MiniLine({ line, width = 150 }: { line: Line; width?: number }) {
  const step = line.joints.length > 1 ? (width - 20) / (line.joints.length - 1) : 0;
  const at = (i: number) => 10 + i * step;
  return (
    <svg width={width} height="18" role="img" aria-label={sayLine(line)} style={{ display: "block" }}>
      {line.joints.slice(1).map((joint, i) => {
        const [faint, cut] = [beyond(line.joints, i + 1), joint.state === "cut" || line.joints[i]?.state === "cut"];
        return (
          <line
            // biome-ignore lint/suspicious/noArrayIndexKey: a joint is its place
            key={i}
            x1={at(i) + 5}
            x2={at(i + 1) - 5}
            y1="9"
            y2="9"
            stroke={faint ? "var(--chakra-colors-slate)" : cut ? color.cut : color.whole}
            strokeWidth={faint ? 1 : 2}
            strokeDasharray={faint || cut ? "2 3" : undefined}
          />
        );
      })}
      {line.joints.map((joint, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a joint is its place
        <Lozenge key={i} x={at(i)} y={9} r={4} state={joint.state} faint={beyond(line.joints, i)} />
      ))}
    </svg>
  );
}

/** The whole line: every joint with its name; a press on one says what is known of it. */
export function JointLine({ line }: { line: Line }) {
  const cut = line.joints.findIndex((j) => j.state === "cut");
  const [chosen, setChosen] = useState<number | null>(null);
  const shown = line.joints[chosen ?? (cut >= 0 ? cut : line.joints.length - 1)];
  return (
    <Box>
      <Box as="ol" listStyleType="none" display="flex" flexWrap="wrap" rowGap="2" aria-label={sayLine(line)}>
        {line.joints.map((joint, i) => {
          const faint = beyond(line.joints, i);
          const after = line.joints[i + 1];
          const broken = joint.state === "cut" || after?.state === "cut";
          return (
            <Box as="li" key={`${joint.kind}${joint.name}`} flex="1 1 70px" minW="70px" maxW="132px" position="relative">
              {after && (
                <Box
                  position="absolute"
                  left="26px"
                  right="-10px"
                  top="13px"
                  borderTopWidth={faint || broken ? "1px" : "2px"}
                  borderStyle={faint || broken ? "dashed" : "solid"}
                  borderColor={broken ? "cinder" : faint ? "slate" : "verdigris"}
                  aria-hidden
                />
              )}
              <chakra.button
                type="button"
                display="block"
                textAlign="left"
                width="full"
                cursor="pointer"
                pr="1"
                aria-pressed={shown === joint}
                onClick={() => setChosen(i)}
                title={joint.words}
              >
                <svg width="32" height="28" aria-hidden="true" style={{ display: "block" }}>
                  <Lozenge x={14} y={14} r={6} state={joint.state} faint={faint} />
                </svg>
                <Box
                  as="span"
                  display="block"
                  fontSize={{ base: "12px", md: "13px" }}
                  lineHeight="16px"
                  fontWeight={shown === joint || joint.state === "cut" ? 700 : 400}
                  color={joint.state === "cut" ? "cinder" : faint || joint.state === "unproven" ? "slate" : "ink"}
                  textDecoration={shown === joint ? "underline" : undefined}
                  textUnderlineOffset="3px"
                  overflow="hidden"
                  textOverflow="ellipsis"
                >
                  {joint.name}
                  {joint.state !== "whole" && (
                    <Box as="span" display="block" fontFamily="mono" fontSize="11px" fontWeight={400}>
                      {joint.state}
                    </Box>
                  )}
                </Box>
              </chakra.button>
            </Box>
          );
        })}
      </Box>
      {shown && shown.state !== "cut" && (
        <Box fontSize="14px" color="ink2" mt="2">
          {shown.words}
        </Box>
      )}
    </Box>
  );
}
