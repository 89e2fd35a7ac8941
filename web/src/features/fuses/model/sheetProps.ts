import type { Schemas } from "@/api/client";
import type { Draft } from "./useFuse";

/** What every side sheet of the run sheet is given. */
export type SideProps = {
  whole: Schemas["FuseDetail"];
  definition: Schemas["FuseDefinition"];
  draft: Draft;
  mayEdit: boolean;
  close: () => void;
};
