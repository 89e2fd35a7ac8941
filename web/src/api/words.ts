import type { Schemas } from "./client";
import told from "./words.json";

// Words that are said in the core, and only there: words.json is made from it, and held against it by a test.

type Op = Schemas["RuleOp"];

const ops = new Map(told.ruleOps.map((o) => [o.op as Op, o]));

/** Every operator of rules. */
export const allOps: readonly Op[] = [...ops.keys()];

/** An operator as it is chosen, and said in a sentence; the values stand after it, or where the dots are. */
export const opWords = (op: Op): string => ops.get(op)?.words ?? op;

/** What stands between several values in a sentence. */
export const between = (op: Op): string => ops.get(op)?.between ?? ", ";

/** How many values an operator compares with: none, one, two, several. */
export const takes = (op: Op): string => ops.get(op)?.takes ?? "several";

/** Comparisons that stand by themselves need none. */
export const needsValues = (op: Op): boolean => takes(op) !== "none";

/** Columns that the list of leads can have, beside the lead fields of a client. The name always stands first. */
export const leadColumns = told.leadColumns;

export const usualLeadColumns: readonly string[] = told.usualLeadColumns;
