import { describe, expect, test } from "vitest";
import { latenessOf, standing, toTarget } from "@/ui/lateness";

const lead = { askedAt: "2026-12-05T10:00:00Z", targetAt: "2026-12-05T10:05:00Z" };
const at = (clock: string) => Date.parse(`2026-12-05T${clock}Z`);

describe("Lateness", () => {
  test("goes by the target while they wait", () => {
    expect(latenessOf(lead, at("10:04:18"))).toEqual({ waited: 258, left: 42, late: false, touched: false });
    expect(latenessOf(lead, at("10:05:42"))).toEqual({ waited: 342, left: -42, late: true, touched: false });
    expect(latenessOf(lead, at("10:05:00")).late).toBe(false);
  });

  test("goes by the first touch once there is one, whatever the clock shows now", () => {
    const touched = { ...lead, firstTouchAt: "2026-12-05T10:03:07Z" };
    expect(latenessOf(touched, at("23:00:00"))).toEqual({ waited: 187, left: 113, late: false, touched: true });
  });

  test("half a second past the full one is past it, though as text it comes first", () => {
    expect("2026-12-05T10:05:00.5Z" > lead.targetAt).toBe(false);
    expect(latenessOf({ ...lead, firstTouchAt: "2026-12-05T10:05:00.5Z" }, at("11:00:00")).late).toBe(true);
  });

  test("is said in one way", () => {
    expect(toTarget(-42)).toMatch(/late$/);
    expect(toTarget(42)).toMatch(/left$/);
    expect(standing(true, 720)).toMatch(/^late, /);
    expect(standing(false, 40)).toMatch(/^in the air, /);
  });
});
