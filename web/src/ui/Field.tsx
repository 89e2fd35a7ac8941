import { Box, chakra } from "@chakra-ui/react";
import { type ReactNode, useId } from "react";

const control = {
  base: {
    width: "full",
    minH: "36px",
    px: "2",
    py: "1",
    bg: "card",
    color: "ink",
    borderWidth: "1px",
    borderColor: "slate",
    borderRadius: "sm",
    fontSize: "15px",
    _focusVisible: { outline: "2px solid", outlineColor: "ink", outlineOffset: "1px" },
    _placeholder: { color: "ink2" },
    "&[aria-invalid=true]": { borderColor: "cinder", borderWidth: "2px" },
    _disabled: { opacity: 0.6 },
  },
};

export const Input = chakra("input", control);
export const Select = chakra("select", control);
export const TextArea = chakra("textarea", { base: { ...control.base, py: "2", lineHeight: 1.5, resize: "vertical" } });

type FieldProps = {
  label: ReactNode;
  error?: string | null;
  hint?: ReactNode;
  aside?: ReactNode;
  children: (ids: { id: string; "aria-invalid"?: true; "aria-describedby"?: string }) => ReactNode;
};

/** A labelled control with an error of its own. */
export function Field({ label, error, hint, aside, children }: FieldProps) {
  const id = useId();
  const told = error || hint ? `${id}-told` : undefined;
  return (
    <Box mb="3">
      <Box display="flex" justifyContent="space-between" gap="3" fontSize="13px" color="ink2" mb="1">
        <chakra.label htmlFor={id}>{label}</chakra.label>
        {aside}
      </Box>
      {children({ id, ...(error ? { "aria-invalid": true as const } : {}), ...(told ? { "aria-describedby": told } : {}) })}
      {told && (
        <Box id={told} fontSize="13px" mt="1" color={error ? "cinder" : "ink2"} role={error ? "alert" : undefined}>
          {error ?? hint}
        </Box>
      )}
    </Box>
  );
}
