import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { api, told, type RoundInList } from "../../api/client.ts";
import { useNotices } from "../../ui/notices.tsx";
import { setNews } from "../../ui/useTitle.ts";
import { wants } from "./choices.ts";
import done from "./done.svg?no-inline";
import stuck from "./stuck.svg?no-inline";
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
      const sentence = `${title} is ${words}.`;
      if (document.hasFocus()) {
        // Its own desk says it already.
        if (location.pathname.split("/")[2] !== String(id)) notices.done(sentence);
      } else {
        setNews(words === "done" ? `✓ ${title}` : `! ${title}`);
        mark(words === "done" ? done : stuck);
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

/** Puts another icon on the page; null puts its own one back. */
function mark(other: string | null): void {
  const icon = document.querySelector<HTMLLinkElement>("link[rel=icon]");
  if (!icon) return;
  plain ||= icon.href;
  icon.href = other ?? plain;
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
