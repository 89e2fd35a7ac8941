import { kept } from "@/ui/kept";

/** How notices make themselves known on this device; not at all until somebody chooses it. */
export type NoticeChoices = {
  /** A short tone with each. */
  sound: boolean;
  /** Shown by the browser while this page is open behind others. */
  outside: boolean;
};

const choices = kept<NoticeChoices>("lit-fuse.notices", { sound: false, outside: false });

export const noticeChoices = choices.read;

export const keepNoticeChoices = (changed: Partial<NoticeChoices>) => choices.keep({ ...choices.read(), ...changed });

export const useNoticeChoices = choices.use;
