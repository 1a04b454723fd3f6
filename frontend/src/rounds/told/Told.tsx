import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { api, told, type RoundInList } from "../../api/client.ts";
import { useNotices } from "../../ui/notices.tsx";
import { setNews } from "../../ui/useTitle.ts";
import { wants } from "./choices.ts";
import { newsOf } from "./told.ts";

const LOOKS_EVERY = 5_000;

/** Says where one is that a round is done, has paused by itself, or is stuck: title, icon, notification, and a sound. */
export function Told() {
  const notices = useNotices();
  const rounds = useQuery({
    queryKey: ["rounds"],
    queryFn: () => told(api.GET("/api/rounds")),
    refetchInterval: LOOKS_EVERY,
    refetchIntervalInBackground: true,
  });
  const before = useRef<RoundInList[] | null>(null);
  useEffect(() => {
    const now = rounds.data;
    if (!now) return;
    const news = before.current ? newsOf(before.current, now) : [];
    before.current = now;
    for (const { id, title, words } of news) {
      const sentence = `${title}: ${words}.`;
      if (document.hasFocus()) {
        notices.done(sentence);
      } else {
        setNews(words === "done" ? `✓ ${title}` : `! ${title}`);
        mark(words === "done" ? "#1f4e8c" : "#a32a2a");
        if (wants.notification() && "Notification" in window && Notification.permission === "granted")
          new Notification("Gentle Ledger", { body: sentence, tag: `round ${id}` });
      }
      if (wants.sound()) chime();
    }
  }, [rounds.data, notices]);
  useEffect(() => {
    const seen = () => {
      setNews("");
      mark(null);
    };
    window.addEventListener("focus", seen);
    return () => window.removeEventListener("focus", seen);
  }, []);
  return null;
}

let plain = "";

/** Puts a spot of ink on the page's icon; null takes it off. */
function mark(colour: string | null): void {
  const icon = document.querySelector<HTMLLinkElement>("link[rel=icon]");
  if (!icon) return;
  plain ||= icon.href;
  icon.href = colour
    ? `data:image/svg+xml,${encodeURIComponent(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 16 16"><rect width="16" height="16" rx="3" fill="#fffdf6"/><circle cx="8" cy="8" r="5" fill="${colour}"/></svg>`)}`
    : plain;
}

/** Two short notes. */
function chime(): void {
  const sound = new AudioContext();
  [660, 880].forEach((pitch, i) => {
    const note = sound.createOscillator();
    const loudness = sound.createGain();
    const at = sound.currentTime + i * 0.18;
    note.frequency.value = pitch;
    loudness.gain.setValueAtTime(0.12, at);
    loudness.gain.exponentialRampToValueAtTime(0.001, at + 0.5);
    note.connect(loudness).connect(sound.destination);
    note.start(at);
    note.stop(at + 0.5);
  });
}
