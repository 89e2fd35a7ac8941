import { ChakraProvider } from "@chakra-ui/react";
import { fireEvent, render, screen } from "@testing-library/react";
import { useState } from "react";
import { describe, expect, it } from "vitest";
import type { Schemas } from "@/api/client";
import { RuleSetEditor } from "@/features/fuses/panels/RuleSetEditor";
import { ListArea, ListInput } from "@/ui/ListInput";
import { system } from "@/ui/theme";

const inside = (what: React.ReactElement) => render(<ChakraProvider value={system}>{what}</ChakraProvider>);

function Kept({ start }: { start: string[] }) {
  const [values, keep] = useState(start);
  return (
    <>
      <ListInput aria-label="List" between="," values={values} onChange={keep} />
      <ListArea aria-label="Lines" values={values} onChange={keep} />
      <button type="button" onClick={() => keep(start)}>
        Undo
      </button>
      <output>{JSON.stringify(values)}</output>
    </>
  );
}

describe("values typed as text", () => {
  it("stay as typed on the way, and are kept as they are meant", () => {
    inside(<Kept start={["a"]} />);
    const list = screen.getByLabelText("List");
    fireEvent.change(list, { target: { value: "a, " } });
    expect(list).toHaveValue("a, ");
    fireEvent.change(list, { target: { value: "a, b" } });
    expect(screen.getByRole("status")).toHaveTextContent('["a","b"]');
  });

  it("show what is kept once something else is: undone, or changed elsewhere", () => {
    inside(<Kept start={["a"]} />);
    fireEvent.change(screen.getByLabelText("List"), { target: { value: "x, y" } });
    expect(screen.getByLabelText("Lines")).toHaveValue("x\ny");
    fireEvent.click(screen.getByText("Undo"));
    expect(screen.getByLabelText("List")).toHaveValue("a");
    expect(screen.getByLabelText("Lines")).toHaveValue("a");
  });
});

describe("the rule editor", () => {
  const around = {
    fields: [{ key: "company", label: "Company", ops: ["one-of"], choices: [], type: "text" }],
    facts: [],
  } as unknown as Schemas["FuseContext"];

  function Rules() {
    const [rules, keep] = useState<Schemas["RuleSet"]>({
      match: "all",
      rules: [
        { field: "company", op: "one-of", values: ["Nook"] },
        { field: "company", op: "one-of", values: ["Quillon"] },
      ],
      groups: null,
    });
    return (
      <>
        <RuleSetEditor rules={rules} around={around} onChange={keep} />
        <output>{JSON.stringify(rules.rules.map((r) => r.values))}</output>
      </>
    );
  }

  it("shows what is kept after a rule is taken out", () => {
    inside(<Rules />);
    fireEvent.click(screen.getAllByText("Take this rule out")[0] as HTMLElement);
    expect(screen.getByRole("status")).toHaveTextContent('[["Quillon"]]');
    expect(screen.getByLabelText("Values, with commas between them")).toHaveValue("Quillon");
  });
});
