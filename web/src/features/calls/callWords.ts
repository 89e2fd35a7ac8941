import { secondsBetween } from "@/ui/time";
import type { Call } from "./useCalls";

type Phone = Call["phones"][number];

const states: Record<Phone["state"], string> = {
  ringing: "rings",
  asked: "is asked",
  accepted: "took it",
  joining: "picked up",
  joined: "talks",
  closing: "is out",
  over: "is out",
};

/** A phone's state in a word; the lead's own is told apart, as nobody asks them anything. */
export const phoneWord = (phone: Phone) => (phone.ofLead && phone.state === "closing" ? "hung up" : states[phone.state]);

/** What goes on, and since when its clock runs. */
export function callNow(call: Call, now: number): { words: string; seconds: number } {
  if (call.joinedAt) return { words: "talking", seconds: secondsBetween(call.joinedAt, now) };
  return { words: call.stage === "ringing-lead" ? "ringing them" : "ringing the team", seconds: secondsBetween(call.beganAt, now) };
}
