import { useEffect, useRef } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "@/api/client";
import { noticeChoices } from "./noticeChoices";
import { useNotices } from "./useNotices";

/** Has notices that come while the page is open make themselves known, as was chosen on this device. */
export function useAnnounced() {
  const { data } = useNotices();
  const navigate = useNavigate();
  const known = useRef<Set<string> | null>(null);
  useEffect(() => {
    if (!data) return;
    // What was there when the page was opened is no news.
    const fresh = known.current ? data.notices.filter((n) => !n.readAt && !known.current?.has(n.id)) : [];
    known.current = new Set(data.notices.map((n) => n.id));
    if (fresh.length === 0) return;
    const { sound, outside } = noticeChoices();
    if (sound) playTone();
    if (outside && document.hidden)
      for (const notice of fresh)
        showOutside(notice, () => void navigate(notice.leadId ? `/leads/${notice.leadId}` : `/sources/${notice.formId}`));
  }, [data, navigate]);
}

/** Two short tones, made here: a page that nobody has pressed anything on yet may not make a sound, and stays silent. */
export function playTone() {
  const Audio = globalThis.AudioContext;
  if (!Audio) return;
  const audio = new Audio();
  const volume = audio.createGain();
  volume.connect(audio.destination);
  for (const [at, pitch] of [
    [0, 660],
    [0.16, 880],
  ] as const) {
    const tone = audio.createOscillator();
    tone.frequency.value = pitch;
    tone.connect(volume);
    tone.start(audio.currentTime + at);
    tone.stop(audio.currentTime + at + 0.12);
    if (at > 0) tone.onended = () => void audio.close();
  }
  volume.gain.setValueAtTime(0.12, audio.currentTime);
}

function showOutside(notice: Schemas["NoticeRow"], open: () => void) {
  if (globalThis.Notification?.permission !== "granted") return;
  // By the notice's own id: two windows show it once.
  const shown = new Notification(notice.about, { body: notice.words, tag: notice.id });
  shown.onclick = () => {
    window.focus();
    open();
    shown.close();
  };
}
