import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { afterEach, describe, expect, test, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { entryOf, inSeconds } from "@/features/fuses/model/sheetLayout";
import { WordsEditor } from "@/features/fuses/panels/WordsEditor";
import { around, kinds } from "./kinds";
import { show } from "./show";

/** Words with fields in them: typed, put in by choosing, and shown as a real lead would get them. */

afterEach(() => vi.unstubAllGlobals());

const step = (id: string, kind: string, more: Partial<Schemas["Step"]> = {}): Schemas["Step"] => ({
  id,
  name: id,
  kind,
  moment: inSeconds(0),
  settings: {},
  ...more,
});
const definition: Schemas["FuseDefinition"] = {
  name: "Test ride",
  litBy: [{ event: "submission", only: { form: ["page"] } }],
  bands: [
    {
      id: "a",
      name: "Always",
      entry: entryOf("always"),
      eachTime: false,
      steps: [step("Tell the desk", "channel-post"), step("sms", "text")],
    },
    {
      id: "b",
      name: "On a reply",
      entry: entryOf("on", { event: "replied" }),
      eachTime: false,
      steps: [step("Later post", "channel-post")],
    },
  ],
};
const whole = { fuse: { id: "f1", clientId: "c1" }, around: { ...around, kinds } } as unknown as Schemas["FuseDetail"];
const preview = {
  rendered: "Ines, hello",
  fault: null,
  size: { units: 11, segments: 1, unicode: false },
  leadId: "l1",
  lead: "Ines Calloway",
  askedAt: null,
  place: 0,
  of: 3,
  html: "<p>Ines, hello</p>",
  samples: {},
};

function edit(words: string, { told = preview, ...more }: Record<string, unknown> & { told?: Record<string, unknown> } = {}) {
  const seen = { words, typing: [] as boolean[] };
  function Host() {
    const [now, setNow] = useState(words);
    return (
      <WordsEditor
        label="Words"
        words={now}
        asText
        line={false}
        whole={whole}
        definition={definition}
        step={step("sms", "text")}
        rules={null}
        mayEdit
        onChange={(next, typing) => {
          seen.words = next;
          seen.typing.push(typing);
          setNow(next);
        }}
        {...more}
      />
    );
  }
  const asked = show(<Host />, { answers: { "POST /api/fuses/f1/preview": told } });
  return { seen, asked };
}
const box = () => screen.getByLabelText("Words") as HTMLTextAreaElement;
const lastAsked = (asked: { body: unknown }[]) =>
  asked.at(-1)?.body as { words: string; place: number; forms: string[]; choices: string[] };

describe("words", () => {
  test("are shown for a real lead, once typing rests, by the forms that light the fuse", async () => {
    const { seen, asked } = edit("Hello");
    expect(await screen.findByText("Ines, hello")).toBeInTheDocument();
    fireEvent.change(box(), { target: { value: "Hello {{ lead.first_name }}" } });
    expect(seen.typing).toEqual([true]);
    await waitFor(() => expect(lastAsked(asked).words).toBe("Hello {{ lead.first_name }}"));
    expect(lastAsked(asked).forms).toEqual(["page"]);
    expect(screen.getByRole("link", { name: "Ines Calloway" })).toHaveAttribute("href", "/leads/l1");
  });

  test("of a fuse that no form lights are shown for leads of any", async () => {
    const { asked } = edit("Hello", { definition: { ...definition, litBy: [{ event: "replied" }] } });
    await waitFor(() => expect(lastAsked(asked).forms).toEqual(["page", "plaza"]));
  });

  test("are stepped through lead by lead", async () => {
    const { asked } = edit("Hello");
    await userEvent.click(await screen.findByRole("button", { name: "An older lead" }));
    await waitFor(() => expect(lastAsked(asked).place).toBe(1));
    expect(screen.getByText("2 of 3")).toBeInTheDocument();
    await userEvent.click(screen.getByRole("button", { name: "A newer lead" }));
    expect(screen.getByRole("button", { name: "A newer lead" })).toBeDisabled();
  });

  test("count their segments, and say what makes them dearer", async () => {
    edit("Grüße ☂", { told: { ...preview, size: { units: 75, segments: 2, unicode: true } } });
    expect(await screen.findByText(/75 · 2 segments/)).toHaveTextContent("UCS-2");
    expect(screen.getByTitle(/makes each segment 70 characters/)).toBeInTheDocument();
  });

  test("that cannot be read are said at their box, and those that may stay empty are not", async () => {
    edit("{{ lead.", { told: { ...preview, fault: "A field is not closed: it ends with }}." } });
    expect(await screen.findByText("A field is not closed: it ends with }}.")).toBeInTheDocument();
    expect(box()).toHaveAttribute("aria-invalid", "true");
  });

  test("that may stay empty are no fault", async () => {
    const { asked } = edit("", { optional: true, told: { ...preview, fault: "There are no words." } });
    await waitFor(() => expect(asked).not.toHaveLength(0));
    expect(screen.queryByText("There are no words.")).not.toBeInTheDocument();
    expect(screen.queryByRole("status", { name: "Preview" })).not.toBeInTheDocument();
  });

  test("are kept although their preview could not be made", async () => {
    edit("Hello", { told: { status: 500, body: { title: "It broke." } } });
    expect(await screen.findByText(/could not be made; the words are kept/)).toBeInTheDocument();
    expect(box()).toHaveValue("Hello");
  });

  test("say when no lead has come by these forms yet", async () => {
    edit("Hello", { told: { ...preview, of: 0, rendered: null } });
    expect(await screen.findByText(/the first will be shown here/)).toBeInTheDocument();
  });
});

describe("a field", () => {
  const choose = async (name: RegExp) => {
    await userEvent.click(screen.getByRole("button", { name: "Put a field in" }));
    await userEvent.click(within(screen.getByRole("group", { name: "Put a field in" })).getByRole("button", { name }));
  };

  test("is put in where the cursor stands, over what is marked", async () => {
    const { seen } = edit("Hello NAME!");
    box().setSelectionRange(6, 10);
    await choose(/^full name/);
    expect(seen.words).toBe("Hello {{ lead.name }}!");
    expect(seen.typing).toEqual([false]); // a step of its own to undo
    await waitFor(() => expect(box()).toHaveFocus());
    expect(box().selectionStart).toBe("Hello {{ lead.name }}".length);
  });

  test("of another step's result is offered where that step is surely done", async () => {
    edit("Hello");
    await userEvent.click(screen.getByRole("button", { name: "Put a field in" }));
    const options = within(screen.getByRole("group", { name: "Put a field in" }))
      .getAllByRole("button")
      .map((o) => o.textContent ?? "");
    expect(options.some((o) => o.startsWith("Tell the desk: url"))).toBe(true);
    expect(options.some((o) => o.startsWith("Later post"))).toBe(false);
    expect(options.some((o) => o.startsWith("choices"))).toBe(false);
  });

  test("of the choices is offered where the step has some", async () => {
    const { seen } = edit("", { step: step("sms", "text", { choices: ["Tuesday", "Thursday"] }) });
    await choose(/^choices/);
    expect(seen.words).toBe("{{ choices }}");
  });

  test("is marked in the words behind what is typed", () => {
    edit("Hello {{ lead.name }}!");
    expect(screen.getByText("{{ lead.name }}", { selector: "span" })).toBeInTheDocument();
  });
});

test("a letter is looked at as text and as HTML, which may do nothing", async () => {
  edit("Hello", { asText: false, step: step("sms", "email") });
  await userEvent.click(await screen.findByRole("button", { name: "as HTML" }));
  const html = screen.getByTitle("The letter as HTML");
  expect(html).toHaveAttribute("srcdoc", "<p>Ines, hello</p>");
  expect(html).toHaveAttribute("sandbox", "");
  expect(screen.getByText("Ines, hello", { selector: "[aria-label=Preview]" })).not.toBeVisible();
  await userEvent.click(screen.getByRole("button", { name: "as text" }));
  expect(screen.getByRole("status", { name: "Preview" })).toBeVisible();
});

test("who may only look gets no fields to put in", () => {
  edit("Hello", { mayEdit: false });
  expect(screen.queryByRole("button", { name: "Put a field in" })).not.toBeInTheDocument();
});
