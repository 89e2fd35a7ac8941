import type { Schemas } from "@/api/client";

type State = Schemas["LineState"];

/** Where a line stands, in a word, and how that is shown. */
export const lineWord: Record<State, { word: string; of: "whole" | "broken" | "waiting" }> = {
  whole: { word: "whole", of: "whole" },
  cut: { word: "cut", of: "broken" },
  unproven: { word: "unproven", of: "waiting" },
};

/** The very place that mends a cut. */
export function mendPath(mend: Schemas["Mend"]): string {
  const id = mend.id ?? "";
  switch (mend.place) {
    case "source":
      return `/sources/from/${id}`;
    case "form":
      return `/sources/${id}${mend.part ? `?at=${mend.part}` : ""}`;
    case "map":
      return `/sources/${id}/map`;
    case "fuse":
      return `/fuses/${id}${mend.step ? `?step=${mend.step}` : mend.part ? `?band=${mend.part}` : ""}`;
    case "new-fuse":
      return id ? `/fuses/new?form=${encodeURIComponent(id)}` : "/fuses/new";
    case "connection":
      return `/setup?at=connection-${id}`;
    case "new-connection":
      return `/setup?at=connect&connect=${id}`;
    case "hours":
      return "/setup?at=hours";
    case "held":
      return "/fuses";
  }
}

/** A line said in a sentence, for who cannot see it. */
export function sayLine(line: Pick<Schemas["LineRow"], "state" | "joints" | "cuts">): string {
  const first = line.cuts[0];
  if (first) return `The line is cut: ${first.cause}`;
  if (line.state === "unproven") return `Nothing is cut, and nothing has proved it: ${line.joints.at(-1)?.words ?? ""}`;
  return `The line is whole: ${line.joints.map((j) => j.name).join(", ")}`;
}
