import { HubConnectionBuilder, LogLevel } from "@microsoft/signalr";
import { type QueryClient, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";

export type LiveState = "live" | "joining" | "lost";
type Notice = { clientId: string; kind: string; ids: string[] };

const flushMs = 150;

/** What must be fetched anew when something of a kind changed. */
export function staleKeys(kind: string, ids: readonly string[]): string[][] {
  switch (kind) {
    case "lead":
      return [
        ["watch"],
        ["frame"],
        ["leads"],
        ["deliveries"],
        ["burns"],
        ["calls"],
        ...(ids.length ? ids.map((id) => ["lead", id]) : [["lead"]]),
      ];
    case "form":
      return [
        ["forms"],
        ["sources"],
        ["source"],
        ["frame"],
        ["watch"],
        ["pen"],
        ...(ids.length
          ? ids.flatMap((id) => [
              ["form", id],
              ["line", id],
            ])
          : [["form"], ["line"]]),
      ];
    case "line":
      return [
        ["lines"],
        ["watch"],
        ["frame"],
        ["sources"],
        ...(ids.length
          ? ids.flatMap((id) => [
              ["line", id],
              ["proofs", id],
            ])
          : [["line"], ["proofs"]]),
      ];
    case "source":
      return [
        ["compared"],
        ["sources"],
        ["forms"],
        ["frame"],
        ["connections"],
        ...(ids.length ? ids.map((id) => ["source", id]) : [["source"]]),
      ];
    case "connection":
      return [["connections"], ["deliveries"], ["watch"]];
    case "pen":
      return [["pen"], ["frame"], ["watch"], ["forms"], ...ids.map((id) => ["form", id])];
    case "conflict":
      return [["conflicts"], ["frame"], ["watch"], ...ids.map((id) => ["lead", id])];
    case "import":
      return [["imports"], ["leads"], ["frame"], ...(ids.length ? ids.map((id) => ["import", id]) : [["import"]])];
    case "tray":
      return [["tray"], ["frame"], ["watch"]];
    case "notice":
      return [["notices"]];
    case "words":
      return [["words"], ["fuse"], ["kits"]];
    case "here":
      return ids.map((id) => ["here", id]);
    case "client":
      return [["frame"], ["fuses"], ["watch"]];
    case "backtest":
      return [["backtests"], ...(ids.length ? ids.map((id) => ["backtest", id]) : [["backtest"]])];
    case "burn":
      return [["burns"], ["watch"], ["frame"]];
    case "nightly":
      return [["nightly"]];
    case "fuse":
      return [["fuses"], ["frame"], ...(ids.length ? ids.map((id) => ["fuse", id]) : [["fuse"]])];
    default:
      return [];
  }
}

/**
 * The live line: hears what changed and lets the screens fetch. Changes of one moment are taken together. When it was
 * lost and is back, everything on screen is fetched anew.
 */
export function useLive(): LiveState {
  const queries = useQueryClient();
  const [state, setState] = useState<LiveState>("joining");
  useEffect(() => {
    let over = false;
    const flush = gather(queries);
    const line = new HubConnectionBuilder()
      .withUrl("/live")
      .withAutomaticReconnect({ nextRetryDelayInMilliseconds: ({ previousRetryCount }) => Math.min(5000, 250 * 2 ** previousRetryCount) })
      .configureLogging(LogLevel.None)
      .build();
    const joined = () => {
      if (over) return;
      setState("live");
      void queries.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "session" });
    };
    const join = async () => {
      while (!over) {
        try {
          await line.start();
          joined();
          return;
        } catch {
          if (!over) setState("lost");
          await new Promise((then) => setTimeout(then, 2000));
        }
      }
    };
    line.on("changed", (notice: Notice) => flush(staleKeys(notice.kind, notice.ids)));
    line.onreconnecting(() => !over && setState("lost"));
    line.onreconnected(joined);
    line.onclose(() => {
      if (over) return;
      setState("lost");
      void join();
    });
    void join();
    return () => {
      over = true;
      void line.stop();
    };
  }, [queries]);
  return state;
}

function gather(queries: QueryClient) {
  const waiting = new Map<string, string[]>();
  let timer: ReturnType<typeof setTimeout> | undefined;
  return (keys: string[][]) => {
    for (const key of keys) waiting.set(key.join("/"), key);
    if (timer !== undefined) return;
    timer = setTimeout(() => {
      timer = undefined;
      for (const key of waiting.values()) void queries.invalidateQueries({ queryKey: key });
      waiting.clear();
    }, flushMs);
  };
}
