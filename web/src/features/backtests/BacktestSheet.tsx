import { Box, chakra } from "@chakra-ui/react";
import { useState } from "react";
import { api, type Schemas, unwrap } from "@/api/client";
import { Button } from "@/ui/Button";
import { Field, Input, Select } from "@/ui/Field";
import { SideSheet } from "@/ui/SideSheet";
import { useNow } from "@/ui/serverClock";
import { ErrorTold, Fetching } from "@/ui/Told";
import { dayAndClock } from "@/ui/time";
import { useAct } from "@/ui/useAct";
import { BacktestFigures } from "./BacktestFigures";
import { BacktestLeads } from "./BacktestLeads";
import { lastDays, type Side, useBacktest, useBacktests } from "./useBacktest";

type BacktestSheetProps = {
  whole: Schemas["FuseDetail"];
  definition: Schemas["FuseDefinition"];
  /** Which backtest is looked at. */
  chosen: string | null;
  /** Which of its numbers is open: its side and what it counts. */
  number: { side: Side; mark: string } | null;
  choose: (id: string | null, number?: { side: Side; mark: string }) => void;
  close: () => void;
};

/** Past leads through the fuse as it stands, beside the armed version and what happened. */
export function BacktestSheet({ whole, definition, chosen, number, choose, close }: BacktestSheetProps) {
  const fuseId = whole.fuse.id;
  const now = useNow(60_000);
  const list = useBacktests(fuseId, true);
  const backtest = useBacktest(chosen);
  const cancel = useAct(
    (id: string) => unwrap(api.POST("/api/backtests/{backtestId}/cancel", { params: { path: { backtestId: id } } })),
    ["backtest"],
    ["backtests"],
  );
  const { zone } = whole.around;
  const data = backtest.data;
  const rows = list.data?.backtests ?? [];
  return (
    <SideSheet title="Backtest" close={close} wide>
      {number && data?.told && chosen ? (
        <BacktestLeads
          id={chosen}
          side={number.side}
          mark={number.mark}
          definition={number.side === "beside" ? (data.besideDefinition ?? data.definition) : data.definition}
          zone={zone}
          back={() => choose(chosen)}
        />
      ) : (
        <>
          <Box fontSize="13px" color="ink2" mb="3">
            Past leads through the fuse as it stands on the sheet. Replies, first touches, opt-outs and outcomes are taken to happen as they
            did then; answers, tags and who owns them, as they are now. Nothing leaves.
          </Box>
          {!chosen && <BacktestForm whole={whole} definition={definition} begun={(id) => choose(id)} />}
          {chosen && backtest.error && <ErrorTold error={backtest.error} />}
          {chosen && !data && !backtest.error && <Fetching what="the backtest" />}
          {data && chosen && (
            <>
              <Box fontSize="14px" mb="2">
                <b>
                  {data.row.since} to {data.row.until}
                </b>
                , {data.row.forms.map((k) => formName(whole, k)).join(", ")}
                {data.row.by ? ` · by ${data.row.by}, ${dayAndClock(data.row.madeAt, now, zone)}` : ""}
              </Box>
              {!data.same && data.told && (
                <Box fontSize="13px" color="slate" mb="2">
                  The fuse has been edited since: these are the figures from before.
                </Box>
              )}
              <Box display="flex" gap="3" mb="3">
                <Button look="soft" size="small" onClick={() => choose(null)}>
                  Another backtest
                </Button>
                {data.row.status === "running" && (
                  <Button look="soft" size="small" onClick={() => cancel.mutate(chosen)} disabled={cancel.isPending}>
                    Cancel
                  </Button>
                )}
              </Box>
              {cancel.error && <ErrorTold error={cancel.error} />}
              {data.row.status === "running" && <Under row={data.row} />}
              {data.row.status === "cancelled" && <Box>It was cancelled after {data.row.leadsDone} leads.</Box>}
              {data.row.status === "failed" && <Box color="cinder">It failed: {data.row.reason}</Box>}
              {data.told && (
                <BacktestFigures told={data.told} whole={data} zone={zone} onNumber={(side, mark) => choose(chosen, { side, mark })} />
              )}
            </>
          )}
          {!chosen && rows.length > 0 && (
            <Box borderTopWidth="1px" borderColor="ink" pt="3" mt="4">
              <Box fontSize="13px" color="ink2" mb="1">
                Earlier ones
              </Box>
              <chakra.ul listStyleType="none">
                {rows.map((r) => (
                  <li key={r.id}>
                    <Button look="quiet" fontWeight={400} textAlign="left" onClick={() => choose(r.id)}>
                      {r.since} to {r.until}: {r.status === "done" ? `${r.total} leads` : r.status} · {dayAndClock(r.madeAt, now, zone)}
                    </Button>
                  </li>
                ))}
              </chakra.ul>
            </Box>
          )}
        </>
      )}
    </SideSheet>
  );
}

const formName = (whole: Schemas["FuseDetail"], key: string) => whole.around.forms.find((f) => f.key === key)?.name ?? key;

function Under({ row }: { row: Schemas["BacktestRow"] }) {
  const share = row.total > 0 ? row.leadsDone / row.total : 0;
  return (
    <Box role="status">
      <Box
        role="progressbar"
        aria-label="Leads put through"
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.round(share * 100)}
        h="6px"
        borderWidth="1px"
        borderColor="ink"
      >
        <Box h="full" bg="sulphur" style={{ width: `${share * 100}%` }} />
      </Box>
      <Box fontSize="13px" mt="1">
        {row.total === 0 ? "Finding the leads …" : `${row.leadsDone} of ${row.total} leads. It goes on when you leave this page.`}
      </Box>
    </Box>
  );
}

function BacktestForm({
  whole,
  definition,
  begun,
}: {
  whole: Schemas["FuseDetail"];
  definition: Schemas["FuseDefinition"];
  begun: (id: string) => void;
}) {
  const fuseId = whole.fuse.id;
  const now = useNow(3_600_000);
  const { forms, zone } = whole.around;
  const [days, setDays] = useState(() => lastDays(30, now, zone));
  const lit = definition.litBy.flatMap((l) => l.only?.form ?? []);
  const [picked, setPicked] = useState<string[]>(() => {
    const own = forms.filter((f) => lit.includes(f.key)).map((f) => f.key);
    return own.length > 0 ? own : forms.map((f) => f.key);
  });
  const [price, setPrice] = useState("");
  const start = useAct(
    () =>
      unwrap(
        api.POST("/api/fuses/{fuseId}/backtests", {
          params: { path: { fuseId } },
          body: { definition, forms: picked, since: days.since, until: days.until, segmentPrice: price === "" ? null : Number(price) },
        }),
      ),
    ["backtests", fuseId],
  );
  return (
    <chakra.form
      onSubmit={(e) => {
        e.preventDefault();
        start.mutate(undefined, { onSuccess: (made) => begun(made.id) });
      }}
    >
      <Field label="The period">
        {(ids) => (
          <Select
            {...ids}
            value=""
            onChange={(e) => {
              if (e.target.value) setDays(lastDays(Number(e.target.value), now, zone));
            }}
          >
            <option value="">
              {days.since} to {days.until}
            </option>
            {[7, 14, 30, 90, 365].map((n) => (
              <option key={n} value={n}>
                the last {n} days
              </option>
            ))}
          </Select>
        )}
      </Field>
      <Box display="grid" gridTemplateColumns="1fr 1fr" gap="3">
        <Field label="First day">
          {(ids) => <Input {...ids} type="date" value={days.since} onChange={(e) => setDays({ ...days, since: e.target.value })} />}
        </Field>
        <Field label="Last day">
          {(ids) => <Input {...ids} type="date" value={days.until} onChange={(e) => setDays({ ...days, until: e.target.value })} />}
        </Field>
      </Box>
      <chakra.fieldset mb="3">
        <chakra.legend fontSize="13px" color="ink2" mb="1">
          Leads of
        </chakra.legend>
        {forms.map((f) => (
          <chakra.label key={f.key} display="block" fontSize="14px">
            <input
              type="checkbox"
              checked={picked.includes(f.key)}
              onChange={() => setPicked(picked.includes(f.key) ? picked.filter((k) => k !== f.key) : [...picked, f.key])}
            />{" "}
            {f.name}
          </chakra.label>
        ))}
      </chakra.fieldset>
      <Field label="A text's segment costs" hint="As your carrier charges it. Left empty, no cost is shown.">
        {(ids) => (
          <Input
            {...ids}
            type="number"
            min="0"
            max="100"
            step="0.0001"
            value={price}
            onChange={(e) => setPrice(e.target.value)}
            width="140px"
          />
        )}
      </Field>
      {start.error && <ErrorTold error={start.error} />}
      <Button look="primary" type="submit" disabled={start.isPending || picked.length === 0}>
        Put them through
      </Button>
    </chakra.form>
  );
}
