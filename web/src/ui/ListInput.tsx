import { type ComponentProps, useState } from "react";
import { Input, TextArea } from "./Field";

type Kept = {
  values: readonly string[];
  onChange: (values: string[]) => void;
  /** What stands between two of them; without it there is one at most. */
  between?: "," | "\n" | undefined;
};

/**
 * What is typed stays as typed (`a, ` on the way to `a, b`) for as long as it means what is kept. When something else is
 * kept, because it was undone, taken out or changed elsewhere, that is shown.
 */
function useTyped({ values, onChange, between }: Kept): { value: string; type: (text: string) => void } {
  const read = (text: string) => (between ? text.split(between) : [text]).map((v) => v.trim()).filter(Boolean);
  const [typed, setTyped] = useState("");
  const means = read(typed);
  const stands = means.length === values.length && means.every((v, i) => v === values[i]);
  return {
    value: stands ? typed : values.join(between === "," ? ", " : (between ?? "")),
    type: (text) => {
      setTyped(text);
      onChange(read(text));
    },
  };
}

/** Values on one line, with commas between them; or one value. */
export function ListInput({
  values,
  onChange,
  between,
  ...rest
}: Kept & Omit<ComponentProps<typeof Input>, "value" | "defaultValue" | "onChange">) {
  const { value, type } = useTyped({ values, onChange, between });
  return <Input {...rest} value={value} onChange={(e) => type(e.target.value)} />;
}

/** Values, one a line. */
export function ListArea({
  values,
  onChange,
  ...rest
}: Omit<Kept, "between"> & Omit<ComponentProps<typeof TextArea>, "value" | "defaultValue" | "onChange">) {
  const { value, type } = useTyped({ values, onChange, between: "\n" });
  return <TextArea {...rest} value={value} onChange={(e) => type(e.target.value)} />;
}
