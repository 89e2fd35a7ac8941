import { Box, chakra } from "@chakra-ui/react";
import { useId } from "react";
import { api, type Schemas, unwrap } from "@/api/client";
import { Input, Select } from "@/ui/Field";
import { SectionHead } from "@/ui/Page";
import { ErrorTold } from "@/ui/Told";
import { useAct } from "@/ui/useAct";

type Reading = Schemas["ImportReading"];

const delimiterWords: Record<string, string> = { ",": "commas", ";": "semicolons", "\t": "tabs", "|": "bars" };
const dateWords = { "year-month-day": "2026-11-25", "day-month-year": "25/11/2026", "month-day-year": "11/25/2026" } as const;

/** What was found in the file, as a sentence that can be changed, and where each column goes. */
export function ReadingPart({ whole }: { whole: Schemas["ImportDetail"] }) {
  const list = useId();
  const { reading, preview } = whole;
  const set = useAct(
    (next: Reading) =>
      unwrap(api.PUT("/api/imports/{importId}/reading", { params: { path: { importId: whole.import.id } }, body: { reading: next } })),
    ["import", whole.import.id],
  );
  const put = (change: Partial<Reading>) => set.mutate({ ...reading, ...change });
  const column = (index: number, leadField: string | null) =>
    put({ columns: reading.columns.map((c) => (c.index === index ? { ...c, leadField } : c)) });
  const pick = { width: "auto", display: "inline-block", minH: "30px", py: "0", mx: "1" } as const;
  return (
    <Box>
      <SectionHead>How it is read</SectionHead>
      <Box lineHeight="38px" mb="3">
        {reading.kind === "csv" ? (
          <>
            Cells are divided by
            <Select aria-label="Delimiter" {...pick} value={reading.delimiter} onChange={(e) => put({ delimiter: e.target.value })}>
              {Object.entries(delimiterWords).map(([d, words]) => (
                <option key={d} value={d}>
                  {words}
                </option>
              ))}
            </Select>
            , the characters are
            <Select aria-label="Characters" {...pick} value={reading.charset} onChange={(e) => put({ charset: e.target.value })}>
              {[...new Set([reading.charset, "utf-8", "windows-1252", "utf-16", "iso-8859-2", "windows-1251"])].map((c) => (
                <option key={c}>{c}</option>
              ))}
            </Select>
            ,{" "}
          </>
        ) : (
          <>
            The sheet
            <Select aria-label="Sheet" {...pick} value={reading.sheet ?? ""} onChange={(e) => put({ sheet: e.target.value })}>
              {whole.sheets.map((s) => (
                <option key={s}>{s}</option>
              ))}
            </Select>
            of the workbook,{" "}
          </>
        )}
        and the first row
        <Select
          aria-label="First row"
          {...pick}
          value={reading.hasHeader ? "names" : "data"}
          onChange={(e) => put({ hasHeader: e.target.value === "names" })}
        >
          <option value="names">holds names</option>
          <option value="data">is a lead already</option>
        </Select>
        . Dates are written
        <Select aria-label="Dates" {...pick} value={reading.dates} onChange={(e) => put({ dates: e.target.value as Reading["dates"] })}>
          {Object.entries(dateWords).map(([d, words]) => (
            <option key={d} value={d}>
              {words}
            </option>
          ))}
        </Select>
        , and numbers without a country are from
        <Input
          aria-label="Country"
          {...pick}
          width="60px"
          defaultValue={reading.country}
          maxLength={2}
          onBlur={(e) => e.target.value !== reading.country && put({ country: e.target.value.toUpperCase() })}
        />
        .
      </Box>
      <Box fontSize="13px" color="ink2" mb="4">
        {[
          preview?.phoneExample,
          preview?.dateExample,
          preview && preview.phonesUnread > 0 ? `${preview.phonesUnread} telephone numbers cannot be read and are kept as they are` : null,
        ]
          .filter(Boolean)
          .join(" · ")}
      </Box>
      {set.error && <ErrorTold error={set.error} />}
      {whole.ofSource ? (
        <Box fontSize="14px">Its rows belong to forms of {whole.import.source}, and go where those forms' maps say.</Box>
      ) : (
        <chakra.table fontSize="14px" borderCollapse="collapse">
          <thead>
            <chakra.tr borderBottomWidth="1px" fontSize="13px" color="ink2">
              {["column", "goes to", "because"].map((h) => (
                <chakra.th key={h} textAlign="left" fontWeight={400} pr="5" pb="1">
                  {h}
                </chakra.th>
              ))}
            </chakra.tr>
          </thead>
          <tbody>
            {reading.columns.map((c) => (
              <chakra.tr key={c.index} borderBottomWidth="1px" borderColor="line2">
                <chakra.td pr="5" py="4px" fontWeight={600}>
                  {c.header}
                </chakra.td>
                <chakra.td pr="5">
                  <Input
                    key={c.leadField ?? ""}
                    aria-label={`${c.header} goes to`}
                    list={list}
                    minH="30px"
                    py="0"
                    defaultValue={c.leadField?.replaceAll("_", " ") ?? ""}
                    placeholder="left out"
                    onBlur={(e) => {
                      const to = e.target.value.trim().replaceAll(" ", "_") || null;
                      if (to !== c.leadField) column(c.index, to);
                    }}
                  />
                </chakra.td>
                <chakra.td color="ink2" fontSize="13px">
                  {c.because ?? (c.leadField ? "a field of its own name" : "")}
                </chakra.td>
              </chakra.tr>
            ))}
          </tbody>
        </chakra.table>
      )}
      <datalist id={list}>
        {[...whole.leadFields, "id", "sent_at"].map((f) => (
          <option key={f} value={f.replaceAll("_", " ")} />
        ))}
      </datalist>
    </Box>
  );
}
