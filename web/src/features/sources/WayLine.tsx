import { Box } from "@chakra-ui/react";
import { span } from "@/ui/time";
import { highest, wayPlace } from "@/ui/wayScale";

/** How late a form's submissions reach us, as a line from the press of the button to the disk. */
export function WayLine({ late }: { late: number | null }) {
  if (late === null) {
    return (
      <Box fontSize="12px" color="ink2">
        at once, from the page
      </Box>
    );
  }
  const x = 4 + wayPlace(late) * 92;
  return (
    <Box display="flex" alignItems="center" gap="2" title="Median of the last twenty: from the press of the button until we had it">
      <svg width="100" height="14" role="img" aria-label={`under way ${span(late)}`}>
        <line x1="4" y1="7" x2={x} y2="7" stroke="var(--chakra-colors-ink)" strokeWidth="2" />
        <line x1={x} y1="7" x2="98" y2="7" stroke="var(--chakra-colors-line)" strokeWidth="1" />
        <line x1="4" y1="3" x2="4" y2="11" stroke="var(--chakra-colors-ink)" strokeWidth="1" />
        <path d={`M${x - 4} 7l4 -4l4 4l-4 4z`} fill="var(--chakra-colors-sulphur)" stroke="var(--chakra-colors-ink)" />
      </svg>
      <Box fontFamily="mono" fontSize="12px" whiteSpace="nowrap">
        {span(late)}
      </Box>
    </Box>
  );
}

/** Submissions of the last fourteen days, today last. */
export function DayMarks({ days }: { days: readonly number[] }) {
  const most = highest(days);
  const said = `${days.reduce((a, b) => a + b, 0)} in fourteen days, ${days.at(-1) ?? 0} today`;
  return (
    <svg width={days.length * 7} height="22" role="img" aria-label={said}>
      <title>{said}</title>
      {days.map((n, i) => (
        <rect
          // biome-ignore lint/suspicious/noArrayIndexKey: a day is its place
          key={i}
          x={i * 7}
          y={20 - (n / most) * 18}
          width="5"
          height={Math.max(1, (n / most) * 18) + 1}
          fill={i === days.length - 1 ? "var(--chakra-colors-ink)" : n === 0 ? "var(--chakra-colors-line)" : "var(--chakra-colors-slate)"}
        />
      ))}
    </svg>
  );
}
