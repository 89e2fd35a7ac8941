import { screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { afterEach, describe, expect, test, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { TrayPage } from "@/features/replies/TrayPage";
import { Library } from "@/features/setup/Library";
import { MailSetup } from "@/features/setup/MailSetup";
import { show } from "./show";

/** What comes in from nobody we know, what letters bring, and how mail is set up. */

afterEach(() => vi.unstubAllGlobals());

const message = (more: Partial<Schemas["TrayMessage"]> = {}): Schemas["TrayMessage"] => ({
  id: "m1",
  clientId: "c1",
  client: "Brackenwheel",
  way: "email",
  from: "other@example.com",
  to: "hello@brackenwheel.example",
  subject: "Bikes",
  words: "Do you lease to schools?",
  at: "2026-11-25T09:40:00Z",
  automatic: false,
  leadId: null,
  lead: null,
  fault: null,
  ...more,
});
const tray = (messages: Schemas["TrayMessage"][], answers: Record<string, unknown> = {}) =>
  show(<TrayPage />, {
    answers: {
      "GET /api/tray": { messages, total: messages.length },
      "GET /api/frame": {
        clients: [],
        leads: 0,
        forms: 0,
        fuses: 0,
        held: 0,
        conflicts: 0,
        stuck: 0,
        tray: 1,
        now: "2026-11-25T09:41:07Z",
      },
      ...answers,
    },
  });

describe("the tray", () => {
  test("says what will be here while nothing is", async () => {
    tray([]);
    expect(await screen.findByText("Nothing lies here.")).toBeInTheDocument();
  });

  test("shows what they wrote, and how a lead is made of them", async () => {
    tray([message(), message({ id: "m2", way: "text", from: "+441632960555", subject: null, words: "Wrong number?", automatic: true })]);
    expect(await screen.findByText("Do you lease to schools?")).toBeInTheDocument();
    expect(screen.getByText("written by a machine")).toBeInTheDocument();
    const links = screen.getAllByRole("link", { name: "Make a lead of them" }).map((l) => l.getAttribute("href"));
    expect(links).toEqual([
      "/leads/new?client=brackenwheel&email=other%40example.com",
      "/leads/new?client=brackenwheel&phone=%2B441632960555",
    ]);
  });

  test("gives a message to the lead whose it is", async () => {
    const asked = tray([message()], {
      "GET /api/leads": { items: [{ id: "l1", name: "Ines Calloway", form: "Test ride", email: "ines@example.com", phone: null }] },
      "POST /api/tray/m1/give": null,
    });
    await userEvent.click(await screen.findByRole("button", { name: "It is a lead’s …" }));
    await userEvent.type(screen.getByLabelText("Whose it is"), "ines");
    await userEvent.click(await screen.findByRole("button", { name: "It is Ines Calloway’s" }));
    await waitFor(() => expect(asked).toContainEqual({ method: "POST", path: "/api/tray/m1/give", body: { leadId: "l1" } }));
  });

  test("offers whoever was made a lead of it since", async () => {
    const asked = tray([message({ leadId: "l9", lead: "Osric Hathersage" })], { "POST /api/tray/m1/give": null });
    await userEvent.click(await screen.findByRole("button", { name: "It is Osric Hathersage’s" }));
    await waitFor(() => expect(asked).toContainEqual({ method: "POST", path: "/api/tray/m1/give", body: { leadId: "l9" } }));
  });

  test("lets a message go that is nobody's", async () => {
    const asked = tray([message()], { "POST /api/tray/m1/dismiss": null });
    await userEvent.click(await screen.findByRole("button", { name: "It is nobody’s" }));
    await waitFor(() => expect(asked.some((a) => a.path === "/api/tray/m1/dismiss")).toBe(true));
  });
});

describe("the library", () => {
  const file = {
    id: "f1",
    client: "Brackenwheel",
    name: "Prices.pdf",
    type: "application/pdf",
    size: 40_960,
    madeAt: "2026-11-25T09:00:00Z",
    madeBy: "Noor",
    usedBy: ["Test ride"],
  };
  const library = (answers: Record<string, unknown> = {}) =>
    show(<Library client="brackenwheel" zone="Europe/London" />, { answers: { "GET /api/library": { files: [file] }, ...answers } });

  test("names its files with their size and what brings them", async () => {
    library();
    expect(await screen.findByRole("link", { name: "Prices.pdf" })).toHaveAttribute("href", "/api/library/f1");
    expect(screen.getByText(/40 kB · put in .* by Noor · comes with Test ride/)).toBeInTheDocument();
  });

  test("says why a file is not taken in", async () => {
    library();
    await screen.findByRole("link", { name: "Prices.pdf" });
    vi.stubGlobal(
      "fetch",
      async () =>
        new Response(JSON.stringify({ title: "No", errors: { name: ["Letters bring files that end in .pdf."] } }), { status: 400 }),
    );
    await userEvent.upload(screen.getByLabelText("Put a file in"), new File(["x"], "run.exe"));
    expect(await screen.findByRole("alert")).toHaveTextContent("Letters bring files that end in .pdf.");
  });

  test("says why one is not taken out", async () => {
    vi.stubGlobal("confirm", () => true);
    library({
      "DELETE /api/library/f1": {
        status: 409,
        body: { title: "It is still used.", detail: "Letters of armed fuses bring it: Test ride." },
      },
    });
    await userEvent.click(await screen.findByRole("button", { name: "Take Prices.pdf out" }));
    expect(await screen.findByText(/Letters of armed fuses bring it: Test ride\./)).toBeInTheDocument();
  });
});

describe("a mail server", () => {
  const connection = { id: "k1", account: "hello@brackenwheel.example" } as Schemas["ConnectionRow"];
  const setup = { address: "http://127.0.0.1:5080/receive/k1", hears: false, domain: null, selector: null, record: null };

  test("says where answers are posted to, and makes the secret for it", async () => {
    const asked = show(<MailSetup connection={connection} />, {
      answers: {
        "GET /api/connections/k1/mail": setup,
        "POST /api/connections/k1/mail/secret": { ...setup, hears: true, secret: "whsec_once" },
      },
    });
    expect(await screen.findByText("http://127.0.0.1:5080/receive/k1")).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "Make a secret" }));
    expect(await screen.findByText("whsec_once")).toBeInTheDocument();
    expect(asked.some((a) => a.path === "/api/connections/k1/mail/secret")).toBe(true);
  });

  test("signs with a key made here, and shows the record to publish", async () => {
    const asked = show(<MailSetup connection={connection} />, {
      answers: { "GET /api/connections/k1/mail": setup, "PUT /api/connections/k1/mail/dkim": setup },
    });
    expect(await screen.findByLabelText("Domain that letters come from")).toHaveValue("brackenwheel.example");
    await userEvent.click(screen.getByRole("button", { name: "Make a key and sign" }));
    await waitFor(() =>
      expect(asked).toContainEqual({
        method: "PUT",
        path: "/api/connections/k1/mail/dkim",
        body: { domain: "brackenwheel.example", selector: "litfuse" },
      }),
    );
  });

  test("shows the record of the key it signs with", async () => {
    show(<MailSetup connection={connection} />, {
      answers: {
        "GET /api/connections/k1/mail": {
          ...setup,
          domain: "brackenwheel.example",
          selector: "litfuse",
          record: { name: "litfuse._domainkey.brackenwheel.example", text: "v=DKIM1; k=rsa; p=MII" },
        },
      },
    });
    expect(await screen.findByText("litfuse._domainkey.brackenwheel.example")).toBeInTheDocument();
    expect(screen.getByRole("button", { name: "Sign no more" })).toBeInTheDocument();
  });
});
