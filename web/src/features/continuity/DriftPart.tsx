import { Box } from "@chakra-ui/react";
import { api, type Schemas, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { ErrorTold } from "@/ui/Told";
import { useAct } from "@/ui/useAct";

/** What has changed about a form's fields, each with a mend that is one press away. */
export function DriftPart({ formId, findings, may }: { formId: string; findings: readonly Schemas["DriftFinding"][]; may: boolean }) {
  const path = { params: { path: { formId } } };
  const stale: string[][] = [["line", formId], ["lines"], ["form", formId], ["watch"], ["map", formId]];
  const mend = useAct(
    (of: { key: string; accept: boolean }) => unwrap(api.POST("/api/forms/{formId}/drift", { ...path, body: of })),
    ...stale,
  );
  if (findings.length === 0 && !mend.data) return null;
  return (
    <Box id="drift" mt="3" fontSize="14px">
      {findings.length > 0 && <Box fontWeight={700}>Changed on the form</Box>}
      <Box as="ul" listStyleType="none">
        {findings.map((f) => (
          <Box
            as="li"
            key={f.key}
            display="flex"
            gap="3"
            alignItems="baseline"
            flexWrap="wrap"
            py="1"
            borderTopWidth="1px"
            borderColor="line2"
          >
            <Box flex="1" minW="260px">
              {f.words}
            </Box>
            {may && (
              <>
                <Button
                  size="small"
                  look="primary"
                  disabled={mend.isPending}
                  aria-label={`${f.mend}: ${f.field}`}
                  onClick={() => mend.mutate({ key: f.key, accept: false })}
                >
                  {f.mend}
                </Button>
                <Button
                  look="quiet"
                  fontSize="13px"
                  fontWeight={400}
                  disabled={mend.isPending}
                  onClick={() => mend.mutate({ key: f.key, accept: true })}
                >
                  It is right as it is
                </Button>
              </>
            )}
          </Box>
        ))}
      </Box>
      {mend.data && (
        <Box role="status" py="1">
          {mend.data.mapVersion ? `Version ${mend.data.mapVersion} of the map is confirmed.` : "Noted."}
          {mend.data.released > 0 && ` ${mend.data.released} that waited ${mend.data.released === 1 ? "goes" : "go"} on.`}
        </Box>
      )}
      {mend.error && <ErrorTold error={mend.error} />}
    </Box>
  );
}
