import { screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { expect, test, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { FusesPage } from "@/features/fuses/FusesPage";
import { VersionsSheet } from "@/features/fuses/panels/VersionsSheet";
import { around } from "./kinds";
import { show } from "./show";

const words: Schemas["FuseDifference"] = {
  bandId: "b",
  stepId: "s",
  where: "“Text them”",
  what: "words",
  before: "Hello",
  after: "Good day",
};
const versions: Schemas["FuseVersionRow"][] = [
  {
    number: 2,
    armedAt: "2026-11-25T09:00:00Z",
    armedBy: "Noor Abernathy-Voss",
    armed: true,
    burns: 3,
    burning: 1,
    sentence: "Always: text the lead at once.",
    changes: [words],
  },
  {
    number: 1,
    armedAt: "2026-11-20T09:00:00Z",
    armedBy: null,
    armed: false,
    burns: 40,
    burning: 0,
    sentence: "Always: text the lead at once.",
    changes: [],
  },
];
const whole = { fuse: { id: "f", clientId: "c1" }, around, revision: 7 } as unknown as Schemas["FuseDetail"];

test("versions tell what changed in each, and one is brought back", async () => {
  const asked = show(<VersionsSheet whole={whole} mayEdit dirty={false} close={vi.fn()} />, {
    answers: {
      "GET /api/fuses/f/versions": { versions, draft: [{ ...words, what: null, before: null, after: "Text to the lead at once" }] },
      "GET /api/fuses/f/versions/compare": { from: {}, to: {}, differences: [words] },
      "POST /api/fuses/f/versions/1/bring-back": null,
    },
  });
  await screen.findByText("v1", { selector: "b" });
  const list = screen.getByRole("list", { name: "Versions" });
  const [newest, first] = within(list)
    .getAllByRole("listitem")
    .filter((l) => l.parentElement === list);
  expect(within(newest as HTMLElement).getByText("Good day")).toBeInTheDocument();
  expect(within(newest as HTMLElement).getByText(/lit 3 times, 1 still burning/)).toBeInTheDocument();
  expect(within(newest as HTMLElement).queryByRole("button", { name: "Bring back as a draft" })).toBeNull();
  expect(screen.getByText("“Text them” is new")).toBeInTheDocument();
  expect(screen.getByLabelText("From")).toHaveValue("1");
  await userEvent.click(within(first as HTMLElement).getByRole("button", { name: "Bring back as a draft" }));
  expect(asked.find((a) => a.path.endsWith("bring-back"))?.body).toEqual({ revision: 7 });
});

test("colleagues are told by their names", async () => {
  const told = { ...words, what: "when it fails", before: "tried usual, then the others go on", after: "tried usual, then u1 is told" };
  show(<VersionsSheet whole={whole} mayEdit={false} dirty={false} close={vi.fn()} />, {
    answers: {
      "GET /api/fuses/f/versions": { versions, draft: [told] },
      "GET /api/fuses/f/versions/compare": { from: {}, to: {}, differences: [told] },
    },
  });
  await waitFor(() => expect(screen.getAllByText("tried usual, then Imke Sandoval is told")).toHaveLength(2));
});

test("nothing is brought back over what is not saved", async () => {
  show(<VersionsSheet whole={whole} mayEdit dirty close={vi.fn()} />, {
    answers: {
      "GET /api/fuses/f/versions": { versions, draft: null },
      "GET /api/fuses/f/versions/compare": { from: {}, to: {}, differences: [] },
    },
  });
  expect(await screen.findByRole("button", { name: "Bring back as a draft" })).toBeDisabled();
  expect(await screen.findByText("They do the same.")).toBeInTheDocument();
});

test("a fuse that was never armed has no versions", async () => {
  show(<VersionsSheet whole={whole} mayEdit dirty={false} close={vi.fn()} />, {
    answers: { "GET /api/fuses/f/versions": { versions: [], draft: null } },
  });
  expect(await screen.findByText(/It was never armed/)).toBeInTheDocument();
});

test("armed fuses are chosen and disarmed at once", async () => {
  vi.stubGlobal("confirm", () => true);
  const row = {
    id: "f",
    clientId: "c1",
    client: "Brackenwheel",
    name: "Test ride",
    state: "armed",
    armedVersion: 1,
    draftDiffers: false,
    sentence: "Always: …",
    litIn30Days: 2,
  };
  const asked = show(<FusesPage />, {
    answers: {
      "GET /api/fuses": {
        fuses: [row, { ...row, id: "g", name: "Costs" }, { ...row, id: "h", name: "A draft", state: "draft", armedVersion: null }],
      },
      "POST /api/fuses/disarm": { disarmed: 2 },
    },
  });
  await userEvent.click(await screen.findByLabelText("Choose Test ride"));
  await userEvent.click(screen.getByLabelText("Choose Costs"));
  expect(screen.queryByLabelText("Choose A draft")).toBeNull();
  await userEvent.click(screen.getByRole("button", { name: "Disarm 2 chosen" }));
  expect(asked.find((a) => a.method === "POST")?.body).toEqual({ ids: ["f", "g"] });
});
