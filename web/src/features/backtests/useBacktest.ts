import { useQuery } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "@/api/client";

export type Told = Schemas["BacktestTold"];
export type Side = "this" | "beside" | "truth";

/** Backtests of a fuse, newest first. */
export const useBacktests = (fuseId: string, open: boolean) =>
  useQuery({
    queryKey: ["backtests", fuseId],
    enabled: open,
    queryFn: () => unwrap(api.GET("/api/fuses/{fuseId}/backtests", { params: { path: { fuseId } } })),
  });

/** One backtest; while it runs it is asked for again, should the live line be away. */
export const useBacktest = (id: string | null) =>
  useQuery({
    queryKey: ["backtest", id],
    enabled: id !== null,
    refetchInterval: (q) => (q.state.data?.row.status === "running" ? 2000 : false),
    queryFn: () => unwrap(api.GET("/api/backtests/{backtestId}", { params: { path: { backtestId: id ?? "" } } })),
  });

/** What a number of a backtest counts, in words. */
export function countWords(mark: string, definition: Schemas["FuseDefinition"]): string {
  const [what, id = ""] = mark.split(":");
  const band = () => `“${definition.bands.find((b) => b.id === id)?.name ?? id}”`;
  const step = () => `“${definition.bands.flatMap((b) => b.steps).find((s) => s.id === id)?.name ?? id}”`;
  switch (what) {
    case "lit":
      return "it is lit";
    case "not-lit":
      return "it is not lit";
    case "no-band":
      return "no band takes them";
    case "waited":
      return "something to them waits for its hours";
    case "spoken":
      return "something goes out to them by itself";
    case "not-spoken":
      return "nothing goes out to them by itself";
    case "messages":
      return Number(id) >= 6 ? "they get 6 messages or more" : Number(id) === 1 ? "they get 1 message" : `they get ${id} messages`;
    case "band":
      return `${band()} is entered`;
    case "step-sent":
      return `${step()} goes out`;
    case "step-waited":
      return `${step()} waits for its hours`;
    case "step-cancelled":
      return `${step()} is cancelled`;
    case "step-failed":
      return `${step()} has nothing left to say, or nobody to carry it`;
    default:
      return "all that were put through";
  }
}

/** Money with two digits, in the client's currency. */
export const money = (amount: number, currency: string) =>
  new Intl.NumberFormat("en-GB", { style: "currency", currency, currencyDisplay: "narrowSymbol" }).format(amount);

/** The last so many days up to today, in a zone. */
export function lastDays(days: number, now: number, zone: string): { since: string; until: string } {
  const of = (t: number) => new Intl.DateTimeFormat("en-CA", { timeZone: zone }).format(t);
  return { since: of(now - (days - 1) * 86_400_000), until: of(now) };
}
