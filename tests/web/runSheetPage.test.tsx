import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { entryOf, inSeconds } from "@/features/fuses/model/sheetLayout";
import { RunSheetPage } from "@/features/fuses/RunSheetPage";
import { around } from "./kinds";
import { show } from "./show";

/** The page of a fuse as a whole: what is pressed, what is asked of the server, and what is told of its answers. */

const definition: Schemas["FuseDefinition"] = {
  name: "Tell the desk",
  litBy: [{ event: "submission", only: { form: ["page"] } }],
  stopOn: [{ event: "replied" }, { event: "opted-out" }],
  bands: [
    {
      id: "always",
      name: "Always",
      entry: entryOf("always"),
      eachTime: false,
      steps: [
        { id: "post", name: "Tell the desk", kind: "channel-post", moment: inSeconds(0), settings: { channel: "#ride-desk", words: "Hi" } },
        { id: "sms", name: "Text them", kind: "text", moment: inSeconds(90_000), settings: { words: "Hello" } },
      ],
    },
  ],
};
const whole: Schemas["FuseDetail"] = {
  fuse: {
    id: "f1",
    clientId: "c1",
    client: "Brackenwheel",
    name: "Tell the desk",
    state: "draft",
    armedVersion: null,
    draftDiffers: false,
    sentence: "",
    litIn30Days: 0,
  },
  definition,
  armed: null,
  revision: 4,
  armedAt: null,
  armedBy: null,
  draftBy: "Noor Abernathy-Voss",
  draftAt: "2026-11-25T09:30:00Z",
  faults: [],
  proposedName: "Post to ride-desk, text after a day",
  counts: [],
  around,
};
const armed: Schemas["FuseDetail"] = {
  ...whole,
  fuse: { ...whole.fuse, state: "armed", armedVersion: 2 },
  armed: definition,
  armedAt: "2026-11-24T08:00:00Z",
  armedBy: "Noor Abernathy-Voss",
  draftBy: null,
  draftAt: null,
};
const nobodyMoves = { "GET /api/fuses/f1/move": { total: 0, burns: [] } };

function page(first: Schemas["FuseDetail"], more: Record<string, unknown> = {}, at = "/fuses/f1") {
  const answers: Record<string, unknown> = {
    "GET /api/fuses/f1": first,
    "POST /api/fuses/f1/here": { people: [] },
    ...nobodyMoves,
    ...more,
  };
  const asked = show(<RunSheetPage />, { path: "/fuses/:fuseId", at, answers });
  return { answers, of: (method: string, path: string) => asked.filter((a) => a.method === method && a.path === path).map((a) => a.body) };
}
const press = (name: string | RegExp) => userEvent.click(screen.getByRole("button", { name }));
const name = () => screen.findByLabelText("What the fuse does");
// What is kept by itself is kept once typing rests for a second.
const resting = { timeout: 4000 };

beforeEach(() => localStorage.clear());
afterEach(() => {
  vi.unstubAllGlobals();
  vi.restoreAllMocks();
});

describe("the draft", () => {
  test("keeps itself once typing rests, and says by whom and when", async () => {
    const { of, answers } = page(whole);
    answers["PUT /api/fuses/f1/draft"] = { ...whole, revision: 5, definition: { ...definition, name: "Tell them all" } };
    expect(await screen.findByText(/^draft of .* by Noor Abernathy-Voss$/)).toBeInTheDocument();
    fireEvent.change(await name(), { target: { value: "Tell them all" } });
    expect(screen.getByText("saving …")).toBeInTheDocument();
    await waitFor(() => expect(of("PUT", "/api/fuses/f1/draft")).toHaveLength(1), resting);
    expect(of("PUT", "/api/fuses/f1/draft")[0]).toMatchObject({ revision: 4, definition: { name: "Tell them all" } });
    expect(await screen.findByText(/^draft of/)).toBeInTheDocument();
  });

  test("cannot be saved over what somebody else saved meanwhile; theirs is loaded by a press", async () => {
    const { answers } = page(whole);
    const theirs = { ...whole, revision: 6, draftBy: "Lucan Thistlewood", definition: { ...definition, name: "Lucan's" } };
    answers["PUT /api/fuses/f1/draft"] = { status: 409, body: { code: "changed-meanwhile", title: "Somebody else saved it." } };
    fireEvent.change(await name(), { target: { value: "Mine" } });
    expect(await screen.findByText("Somebody else saved it.", undefined, resting)).toBeInTheDocument();
    expect(screen.getByText("not saved")).toBeInTheDocument();
    answers["GET /api/fuses/f1"] = theirs;
    fireEvent(window, new Event("visibilitychange"));
    expect(await screen.findByText(/Lucan Thistlewood saved this fuse after you opened it/)).toBeInTheDocument();
    expect(await name()).toHaveValue("Mine");
    await press("Load theirs; mine is dropped");
    expect(await name()).toHaveValue("Lucan's");
    expect(screen.queryByText("not saved")).not.toBeInTheDocument();
  });

  test("is undone and redone by press and by key", async () => {
    page(whole);
    fireEvent.change(await name(), { target: { value: "Another" } });
    await press("Undo");
    expect(await name()).toHaveValue("Tell the desk");
    fireEvent.keyDown(window, { key: "y", ctrlKey: true });
    expect(await name()).toHaveValue("Another");
    fireEvent.keyDown(window, { key: "z", ctrlKey: true });
    expect(await name()).toHaveValue("Tell the desk");
    expect(screen.getByRole("button", { name: "Undo" })).toBeDisabled();
    expect(screen.getByRole("button", { name: "Redo" })).toBeEnabled();
  });

  test("is never without a name: what it does says one", async () => {
    page(whole);
    const box = await name();
    fireEvent.change(box, { target: { value: "" } });
    fireEvent.blur(box);
    expect(await name()).toHaveValue("Post to ride-desk, text after a day");
  });

  test("has a name of one line, however it was pasted", async () => {
    page(whole);
    fireEvent.change(await name(), { target: { value: "Tell\nthe desk" } });
    expect(await name()).toHaveValue("Tell the desk");
  });

  test("is thrown away only after a question", async () => {
    const { of, answers } = page({ ...armed, fuse: { ...armed.fuse, draftDiffers: true }, revision: 9 });
    answers["DELETE /api/fuses/f1/draft"] = armed;
    const ask = vi.spyOn(window, "confirm").mockReturnValueOnce(false).mockReturnValueOnce(true);
    await name();
    await press("Back to v2");
    expect(of("DELETE", "/api/fuses/f1/draft")).toHaveLength(0);
    await press("Back to v2");
    await waitFor(() => expect(of("DELETE", "/api/fuses/f1/draft")).toHaveLength(1));
    expect(ask).toHaveBeenCalledTimes(2);
    await waitFor(() => expect(screen.queryByRole("button", { name: "Back to v2" })).not.toBeInTheDocument());
  });
});

describe("arming", () => {
  test("saves first what is not saved yet, and arms what was saved", async () => {
    const { of, answers } = page(whole);
    const edited = { ...definition, name: "Tell them all" };
    answers["PUT /api/fuses/f1/draft"] = { ...whole, revision: 5, definition: edited };
    answers["POST /api/fuses/f1/arm"] = { ...armed, revision: 6, definition: edited, fuse: { ...armed.fuse, armedVersion: 1 } };
    fireEvent.change(await name(), { target: { value: "Tell them all" } });
    await press("Arm v1");
    await waitFor(() => expect(of("POST", "/api/fuses/f1/arm")).toEqual([{ revision: 5, alsoDays: null }]));
    expect(of("PUT", "/api/fuses/f1/draft")).toHaveLength(1);
    expect(await screen.findByText("armed · v1")).toBeInTheDocument();
  });

  test("that is refused says why and leads to what is wrong", async () => {
    const faulty = {
      ...whole,
      faults: [
        { bandId: "always", stepId: "sms", what: "“Text them” has no words.", mend: "Write what they are to read.", blocks: true },
        { bandId: "always", stepId: null, what: "Nothing leads to “Late”.", mend: "Take it out.", blocks: false },
      ],
    } as Schemas["FuseDetail"];
    const { answers } = page(faulty);
    answers["POST /api/fuses/f1/arm"] = { status: 409, body: { code: "cannot-arm", title: "It cannot be armed as it stands." } };
    expect(await screen.findByRole("button", { name: "What's wrong: 1 · 1 to look at" })).toBeInTheDocument();
    await press("Arm v1");
    expect(await screen.findByText("It cannot be armed as it stands.")).toBeInTheDocument();
    await press("See what is wrong");
    const wrong = screen.getByRole("complementary", { name: "What's wrong" });
    expect(within(wrong).getByText("“Text them” has no words.")).toBeInTheDocument();
    expect(within(wrong).getByText("Worth a look")).toBeInTheDocument();
    await userEvent.click(within(wrong).getAllByRole("button", { name: "Go there" })[0] as HTMLElement);
    expect(await screen.findByRole("complementary", { name: "Text them" })).toBeInTheDocument();
    // On the sheet only what keeps it from being armed is marked.
    expect(screen.getByRole("button", { name: /^Text them/ })).toHaveAttribute("data-faulty");
    expect(screen.queryByText("▲ to mend")).not.toBeInTheDocument();
  });

  test("is not offered for what is armed as it stands, and again for what was disarmed", async () => {
    const { of, answers } = page(armed);
    answers["POST /api/fuses/f1/disarm"] = { ...armed, revision: 5, fuse: { ...armed.fuse, state: "disarmed" } };
    await name();
    expect(screen.getByRole("button", { name: "Arm v3" })).toBeDisabled();
    await press("Disarm");
    expect(await screen.findByRole("button", { name: "Arm v2 again" })).toBeEnabled();
    expect(of("POST", "/api/fuses/f1/disarm")).toHaveLength(1);
  });

  test("also for earlier leads says for how many and what would go out first", async () => {
    const first = { at: "2026-11-25T09:42:00Z", lead: "Ines Calloway", leadId: "l1", to: null, step: "Tell the desk", words: "Ines asked" };
    const { of, answers } = page(whole, {
      "GET /api/fuses/f1/catch-up": { asked: 31, lit: 12, tooLate: 5, lookedAt: 12, first: [first] },
    });
    answers["POST /api/fuses/f1/arm"] = { ...armed, revision: 5 };
    await name();
    await press("Arm it also for who asked before");
    const also = await screen.findByRole("complementary", { name: /also for who asked before/ });
    expect(await within(also).findByText(/of 31 leads would light it now/)).toHaveTextContent("12 of 31");
    expect(also).toHaveTextContent("To 5 something is too old by now to be said.");
    expect(also).toHaveTextContent("to the team, about Ines Calloway");
    await userEvent.selectOptions(within(also).getByLabelText("Who asked in the last"), "7 days");
    await userEvent.click(await within(also).findByRole("button", { name: /^Arm/ }));
    await waitFor(() => expect(of("POST", "/api/fuses/f1/arm")).toEqual([{ revision: 4, alsoDays: 7 }]));
    await waitFor(() => expect(also).not.toBeInTheDocument());
  });
});

describe("the page", () => {
  test("says in a sentence what lights and what stops it", async () => {
    page(whole);
    await name();
    expect(screen.getByRole("button", { name: "they send a form: Book a test ride" })).toBeInTheDocument();
    expect(screen.getByRole("button", { name: "they reply or they want no more messages" })).toBeInTheDocument();
    expect(document.title).toBe("Tell the desk · Lit Fuse");
  });

  test("names who else is here, and who of them edits", async () => {
    const here = {
      people: [
        { name: "Lucan Thistlewood", edits: true },
        { name: "Imke Sandoval", edits: false },
      ],
    };
    page(whole, { "POST /api/fuses/f1/here": here });
    expect(await screen.findByText("also here: Lucan Thistlewood (editing), Imke Sandoval")).toBeInTheDocument();
  });

  test("opens what an address names, and closes it by key", async () => {
    page(whole, {}, "/fuses/f1?step=post");
    expect(await screen.findByRole("complementary", { name: "Tell the desk" })).toBeInTheDocument();
    expect(screen.getByRole("button", { name: /^Tell the desk/ })).toHaveAttribute("aria-expanded", "true");
    fireEvent.keyDown(window, { key: "Escape" });
    await waitFor(() => expect(screen.queryByRole("complementary")).not.toBeInTheDocument());
  });

  test("the links of a post are any of those it can have, in one order", async () => {
    const links = [
      { value: "lead", label: "to the lead" },
      { value: "take", label: "Take it" },
    ];
    const posts = around.kinds.map((k) =>
      k.key === "channel-post"
        ? {
            ...k,
            settings: [...k.settings, { key: "links", label: "Links at the end", type: "links" as const, optional: true, choices: links }],
          }
        : k,
    );
    const { of, answers } = page({ ...whole, around: { ...around, kinds: posts } }, {}, "/fuses/f1?step=post");
    answers["PUT /api/fuses/f1/draft"] = { ...whole, revision: 5 };
    const sheet = await screen.findByRole("group", { name: "Links at the end" });
    await userEvent.click(within(sheet).getByLabelText("Take it"));
    await userEvent.click(within(sheet).getByLabelText("to the lead"));
    expect(within(sheet).getByLabelText("Take it")).toBeChecked();
    await waitFor(() => expect(of("PUT", "/api/fuses/f1/draft")).not.toHaveLength(0), resting);
    expect(of("PUT", "/api/fuses/f1/draft")[0]).toMatchObject({
      definition: { bands: [{ steps: [{ settings: { links: "lead,take" } }, {}] }] },
    });
  });

  test("adds a step where it is asked to, and opens it", async () => {
    page(whole);
    await name();
    await press("Add a step to Always");
    await press("Text to the lead");
    expect(await screen.findByRole("complementary", { name: "Text to the lead" })).toBeInTheDocument();
    const line = screen.getByRole("region", { name: "Always" });
    expect(
      within(line)
        .getAllByRole("listitem")
        .map((m) => m.textContent?.slice(0, 8)),
    ).toEqual(["at onceL", "25 hLead"]);
    expect(within(line).getAllByRole("button", { name: /^(Tell|Text)/ })).toHaveLength(3);
  });

  test("burns of earlier versions are moved on a press, seen beforehand", async () => {
    const burns = [
      { burnId: "b1", leadId: "l1", lead: "Ines Calloway", fromVersion: 1, changes: [{ step: "Text them", words: "is new" }] },
    ];
    const { of } = page(armed, {
      "GET /api/fuses/f1/move": { total: 3, burns },
      "POST /api/fuses/f1/move": { moved: 3 },
    });
    await userEvent.click(await screen.findByRole("button", { name: "3 still burning on earlier versions" }));
    expect(screen.getByRole("group", { name: "Moving burns" })).toHaveTextContent("from v1: “Text them” is new");
    await press("Move all 3 to v2");
    expect(await screen.findByText("3 moved to v2")).toBeInTheDocument();
    expect(of("POST", "/api/fuses/f1/move")).toHaveLength(1);
  });

  test("takes a fuse from a file as an edit that can be undone, and says what is wrong with a file", async () => {
    const { of, answers } = page(whole);
    answers["PUT /api/fuses/f1/draft"] = {
      status: 400,
      body: { code: "bad-fuse-file", title: "“wait” is not known at bands[0].steps[1]." },
    };
    await name();
    const file = () => new File(['{"format":"lit-fuse/fuse"}'], "ride.fuse.json", { type: "application/json" });
    await userEvent.upload(screen.getByLabelText("From a file"), file());
    expect(await screen.findByText(/is not known at bands\[0\]/)).toBeInTheDocument();
    answers["PUT /api/fuses/f1/draft"] = { ...whole, revision: 5, definition: { ...definition, name: "From a file" } };
    await userEvent.upload(screen.getByLabelText("From a file"), file());
    await waitFor(async () => expect(await name()).toHaveValue("From a file"));
    expect(of("PUT", "/api/fuses/f1/draft")[1]).toMatchObject({ definition: null, file: '{"format":"lit-fuse/fuse"}' });
    await press("Undo");
    expect(await name()).toHaveValue("Tell the desk");
  });

  test("who may only look sees the same sheet without its edits", async () => {
    page({ ...armed, fuse: { ...armed.fuse, clientId: "c2" } });
    expect(await screen.findByRole("heading", { name: "Tell the desk", level: 1 })).toBeInTheDocument();
    expect(screen.getByRole("button", { name: /^Text them/ })).toHaveAttribute("draggable", "false");
    for (const gone of ["Undo", "Disarm", "Add a band", "Add a step to Always"])
      expect(screen.queryByRole("button", { name: gone })).not.toBeInTheDocument();
    fireEvent.keyDown(screen.getByRole("button", { name: /^Text them/ }), { key: "Delete" });
    expect(screen.getByRole("button", { name: /^Text them/ })).toBeInTheDocument();
  });

  test("a fuse that is not there is said, with another try", async () => {
    page(whole, { "GET /api/fuses/f1": { status: 404, body: { code: "not-there", title: "There is nothing here." } } });
    expect(await screen.findByText("There is nothing here.")).toBeInTheDocument();
  });
});
