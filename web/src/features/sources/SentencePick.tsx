import { chakra } from "@chakra-ui/react";

const Pick = chakra("select", {
  base: {
    display: "inline-block",
    minH: "30px",
    maxW: "100%",
    bg: "transparent",
    color: "ink",
    fontWeight: 600,
    borderBottomWidth: "2px",
    borderBottomStyle: "dotted",
    borderColor: "slate",
    cursor: "pointer",
    _focusVisible: { outline: "2px solid", outlineColor: "ink", outlineOffset: "1px" },
    _disabled: { cursor: "default", opacity: 1 },
  },
});

type Props = {
  label: string;
  value: string;
  of: readonly (readonly [string, string])[];
  onChange: (value: string) => void;
  disabled?: boolean;
};

/** A part of a sentence that can be chosen otherwise. */
export function SentencePick({ label, value, of, onChange, disabled }: Props) {
  return (
    <Pick aria-label={label} value={value} disabled={disabled} onChange={(e) => onChange(e.target.value)}>
      {of.map(([key, words]) => (
        <option key={key} value={key}>
          {words}
        </option>
      ))}
    </Pick>
  );
}
