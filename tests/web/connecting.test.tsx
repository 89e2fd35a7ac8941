import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, test, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { ImportPage } from "@/features/imports/ImportPage";
import { ConnectPage, NewSourcePage } from "@/features/sources/NewSourcePage";
import { SourcePage } from "@/features/sources/SourcePage";
import { SourcesPage } from "@/features/sources/SourcesPage";
import { show } from "./show";

afterEach(() => vi.unstubAllGlobals());

const card = (over: Partial<Schemas["SourceKindCard"]>): Schemas["SourceKindCard"] => ({
  kind: "hook",
  name: "Any program",
  what: "Whatever sends JSON",
  arrives: "It posts.",
  access: "nothing",
  placeWord: "",
  permissions: [],
  guide: ["Make a hook."],
  makesForms: true,
  ...over,
});
const kinds = {
  kinds: [
    card({
      kind: "plaza",
      name: "Plaza",
      access: "consent",
      permissions: [{ key: "a", name: "read the answers", without: "no lead arrives" }],
    }),
    card({}),
    card({ kind: "file", name: "A file", makesForms: false }),
    card({ kind: "hand", name: "By hand", makesForms: false }),
  ],
};
const answers = { "GET /api/source-kinds": kinds };
const at = (kind: string, told = "") => ({ path: "/sources/new/:kind", at: `/sources/new/${kind}${told}` });

describe("choosing a way in", () => {
  test("each stands as a sentence and leads to where it is set up", async () => {
    show(<NewSourcePage />, { answers });
    expect(await screen.findByRole("link", { name: "Any program" })).toHaveAttribute("href", "/sources/new/hook?client=brackenwheel");
    expect(screen.getByRole("link", { name: "By hand" })).toHaveAttribute("href", "/leads/new?client=brackenwheel");
  });

  test("a way in that there is not says so", async () => {
    show(<ConnectPage />, { ...at("telegraph"), answers });
    expect(await screen.findByText(/There is no way in by that name/)).toBeInTheDocument();
  });
});

describe("connecting", () => {
  test("a network: the permissions and what each is for stand beside the press, which leads to its own page", async () => {
    const assign = vi.fn();
    vi.stubGlobal("location", { ...window.location, assign });
    const asked = show(<ConnectPage />, {
      ...at("plaza"),
      answers: { ...answers, "POST /api/connections/consent": { goTo: "https://plaza.example/consent" } },
    });
    expect(await screen.findByText("without it no lead arrives")).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Connect Plaza" }));
    await waitFor(() => expect(assign).toHaveBeenCalledWith("https://plaza.example/consent"));
    expect(asked.find((a) => a.method === "POST")?.body).toEqual({ client: "brackenwheel", kind: "plaza", connectionId: null });
  });

  test("one that was refused over there is said", async () => {
    show(<ConnectPage />, { ...at("plaza", "?told=refused"), answers });
    expect(await screen.findByText(/you pressed Refuse, so nothing is connected/)).toBeInTheDocument();
  });

  test("a program: named and made, a refusal stands at its field", async () => {
    const refused = { status: 400, body: { title: "x", detail: "x", errors: { name: ["At most 80 characters."] } } };
    show(<ConnectPage />, { ...at("hook"), answers: { ...answers, "POST /api/sources": refused } });
    await userEvent.type(await screen.findByLabelText("What do you call it"), "Calendar");
    await userEvent.click(screen.getByRole("button", { name: "Make it" }));
    expect(await screen.findByText("At most 80 characters.")).toBeInTheDocument();
    expect(screen.getByLabelText("What do you call it")).toHaveValue("Calendar");
  });

  test("a file that cannot be read says why", async () => {
    class Upload {
      upload = {};
      status = 400;
      responseText = JSON.stringify({
        title: "Something in the request is not right.",
        detail: "The file is empty.",
        mend: "Choose another.",
      });
      onload: () => void = () => undefined;
      open() {}
      setRequestHeader() {}
      send() {
        this.onload();
      }
    }
    vi.stubGlobal("XMLHttpRequest", Upload);
    show(<ConnectPage />, { ...at("file"), answers });
    await userEvent.upload(await screen.findByLabelText("The file"), new File(["x"], "leads.csv", { type: "text/csv" }));
    expect(await screen.findByText("The file is empty.")).toBeInTheDocument();
  });
});

describe("when it does not work", () => {
  test.each([
    ["sources", <SourcesPage key="a" />, "*", "/", "GET /api/sources"],
    ["a source", <SourcePage key="b" />, "/sources/from/:sourceId", "/sources/from/s1", "GET /api/sources/s1"],
    ["an import", <ImportPage key="c" />, "/sources/files/:importId", "/sources/files/i1", "GET /api/imports/i1"],
  ] as const)("%s: what happened and what to do is said, and it can be tried again", async (_, page, path, address, call) => {
    const asked = show(page, {
      path,
      at: address,
      answers: { [call]: { status: 503, body: { title: "The database cannot be reached.", mend: "Start PostgreSQL." } } },
    });
    expect(await screen.findByText("The database cannot be reached.")).toBeInTheDocument();
    expect(screen.getByText("Start PostgreSQL.")).toBeInTheDocument();
    const before = asked.length;
    await userEvent.click(screen.getByRole("button", { name: "Try again" }));
    await waitFor(() => expect(asked.length).toBeGreaterThan(before));
  });

  test("no source yet: what will be here, and the first step", async () => {
    show(<SourcesPage />, { answers: { "GET /api/sources": { sources: [] } } });
    expect(await screen.findByText("No source is connected yet.")).toBeInTheDocument();
    expect(screen.getByRole("link", { name: "connect the first" })).toBeInTheDocument();
  });
});

describe("an import under way, and after", () => {
  const line = (over: Partial<Schemas["ImportLine"]>): Schemas["ImportLine"] => ({
    id: "i1",
    clientId: "c1",
    client: "Brackenwheel",
    source: "Files",
    formId: "f1",
    fileName: "fair.csv",
    bytes: 100,
    status: "running",
    lights: false,
    rowsDone: 4000,
    bytesDone: 40,
    newLeads: 3990,
    updates: 0,
    doubles: 6,
    badRows: 4,
    reason: null,
    madeBy: "Noor",
    madeAt: "2026-11-25T09:41:07Z",
    startedAt: "2026-11-25T09:41:07Z",
    endedAt: "2026-11-25T09:41:09Z",
    ...over,
  });
  const whole = (over: Partial<Schemas["ImportLine"]>) => ({
    import: line(over),
    reading: {
      kind: "csv",
      delimiter: ",",
      charset: "utf-8",
      hasHeader: true,
      sheet: null,
      dates: "year-month-day",
      country: "GB",
      columns: [],
    },
    sheets: [],
    leadFields: [],
    ofSource: false,
    preview: null,
  });
  const address = { path: "/sources/files/:importId", at: "/sources/files/i1" };

  test("shows how far it is, and can be cancelled", async () => {
    const asked = show(<ImportPage />, { ...address, answers: { "GET /api/imports/i1": whole({}), "POST /api/imports/i1/cancel": null } });
    expect(await screen.findByText(/4,000 rows in/)).toHaveTextContent("3,990 new, 0 updates, 6 here already, 4 not readable");
    expect(screen.getByRole("progressbar")).toHaveAttribute("aria-valuenow", "40");
    await userEvent.click(screen.getByRole("button", { name: "Cancel" }));
    expect(asked.some((a) => a.path.endsWith("/cancel"))).toBe(true);
  });

  test("done: the bad rows can be had, and it can be undone", async () => {
    const asked = show(<ImportPage />, {
      ...address,
      answers: { "GET /api/imports/i1": whole({ status: "done" }), "POST /api/imports/i1/undo": null },
    });
    expect(await screen.findByRole("link", { name: /Get the 4 rows/ })).toHaveAttribute("href", "/api/imports/i1/bad-rows.csv");
    await userEvent.click(screen.getByRole("button", { name: "Undo the import" }));
    expect(asked.some((a) => a.path.endsWith("/undo"))).toBe(true);
  });

  test("undone with something left, or failed: it is said why", async () => {
    show(<ImportPage />, {
      ...address,
      answers: { "GET /api/imports/i1": whole({ status: "undone", reason: "2 leads stay: somebody has reached out to them." }) },
    });
    expect(await screen.findByText(/2 leads stay/)).toBeInTheDocument();
    expect(screen.queryByRole("button", { name: "Undo the import" })).toBeNull();
  });
});
