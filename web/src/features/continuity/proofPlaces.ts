import type { Schemas } from "@/api/client";

/** From and to, as shares of the whole way: what each joint took since the one before it. */
export type Place = { from: number; to: number };

/** Where on a line of time each passed joint stands; `null` for one that is not passed. Things that go at once begin at the same moment. */
export function proofPlaces(joints: readonly Pick<Schemas["ProofJoint"], "state" | "seconds" | "whose">[]): (Place | null)[] {
  const passed = joints.map((j) => (j.state === "done" ? j.seconds : null));
  const longest = Math.max(0.001, ...passed.map((s) => s ?? 0));
  const services = (whose: string) => !["press", "network", "us"].includes(whose);
  let ours = 0;
  return joints.map((j, i) => {
    const to = passed[i];
    if (to === null || to === undefined) return null;
    const from = services(j.whose) ? ours : Math.min(ours, to);
    if (!services(j.whose)) ours = Math.max(ours, to);
    return { from: from / longest, to: Math.max(from, to) / longest };
  });
}
