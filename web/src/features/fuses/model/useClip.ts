import { kept } from "@/ui/kept";
import type { Clip } from "./moving";

/** What was copied or cut last, in this window or another: it can be put into any fuse. */
const clip = kept<Clip | null>("lit-fuse.clip", null);

export const keepClip = (next: Clip) => clip.keep(next);

export const useClip = clip.use;
