import { Box, chakra } from "@chakra-ui/react";
import { api, type Schemas, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { Input } from "@/ui/Field";
import { SectionHead } from "@/ui/Page";
import { ErrorTold } from "@/ui/Told";
import { useAct } from "@/ui/useAct";
import { useDraftOf } from "@/ui/useDraftOf";
import { guessField } from "./guessField";

/** Picking fields from a sample of any shape: press on a value, say what it is. */
export function PickPanel({ whole, sample, may }: { whole: Schemas["FormDetail"]; sample: Schemas["FormSample"]; may: boolean }) {
  const { draft: picks, setDraft: setPicks, changed } = useDraftOf<readonly Schemas["Pick"][]>(whole.picks);
  const formId = whole.form.id;
  const save = useAct(
    () => unwrap(api.PUT("/api/forms/{formId}/picks", { params: { path: { formId } }, body: { picks: [...picks] } })),
    ["form", formId],
    ["forms"],
    ["sources"],
  );
  const turn = (path: string) =>
    setPicks((p) =>
      p.some((x) => x.path === path)
        ? p.filter((x) => x.path !== path)
        : [
            ...p,
            {
              path,
              field: guessField(
                path,
                p.map((x) => x.field),
              ),
            },
          ],
    );
  const name = (path: string, field: string) => setPicks((p) => p.map((x) => (x.path === path ? { ...x, field } : x)));
  if (sample.paths.length === 0) return null;
  return (
    <Box mb="6">
      <SectionHead>What this program sends: press on what you want</SectionHead>
      <Box as="ul" listStyleType="none">
        {sample.paths.map((p) => {
          const pick = picks.find((x) => x.path === p.question);
          return (
            <Box
              as="li"
              key={p.question}
              display="grid"
              gridTemplateColumns="minmax(0, 1fr) 170px"
              gap="3"
              alignItems="center"
              borderBottomWidth="1px"
              borderColor="line2"
              minH="38px"
            >
              <chakra.button
                type="button"
                aria-pressed={pick !== undefined}
                disabled={!may}
                onClick={() => turn(p.question)}
                textAlign="left"
                cursor="pointer"
                minW="0"
                py="1"
                px="2"
                borderLeftWidth="3px"
                borderColor={pick ? "sulphur" : "transparent"}
                bg={pick ? "card" : undefined}
                _hover={{ bg: "card" }}
              >
                <Box fontFamily="mono" fontSize="12px" color="ink2" truncate>
                  {p.question}
                </Box>
                <Box truncate>{p.answer || "–"}</Box>
              </chakra.button>
              {pick && (
                <Input
                  aria-label={`${p.question} is`}
                  value={pick.field}
                  minH="30px"
                  fontSize="14px"
                  disabled={!may}
                  onChange={(e) => name(p.question, e.target.value)}
                />
              )}
            </Box>
          );
        })}
      </Box>
      {may && changed && (
        <Box mt="3" display="flex" gap="3" alignItems="center">
          <Button look="primary" disabled={save.isPending} onClick={() => save.mutate()}>
            Use these {picks.length} fields
          </Button>
          <Box fontSize="13px" color="ink2">
            Call them email, phone, full_name… where that is what they are.
          </Box>
        </Box>
      )}
      {save.error && <ErrorTold error={save.error} />}
    </Box>
  );
}
