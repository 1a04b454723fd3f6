import { useState } from "react";
import { choose, wants } from "./choices.ts";

/** How one is told when the round is done, has paused by itself, or is stuck. */
export function TellMe() {
  const [notification, setNotification] = useState(() => wants.notification() && "Notification" in window && Notification.permission === "granted");
  const [sound, setSound] = useState(wants.sound);
  const [refused, setRefused] = useState(false);
  const notify = async (on: boolean) => {
    const allowed = on && "Notification" in window && (await Notification.requestPermission()) === "granted";
    setRefused(on && !allowed);
    choose("notification", allowed);
    setNotification(allowed);
  };
  return (
    <span className="flex items-baseline gap-3" role="group" aria-label="When it is done or stuck">
      <span>When it is done or stuck:</span>
      <label className="flex items-baseline gap-1">
        <input type="checkbox" checked={notification} onChange={(e) => void notify(e.target.checked)} />
        tell me
      </label>
      <label className="flex items-baseline gap-1">
        <input
          type="checkbox"
          checked={sound}
          onChange={(e) => {
            choose("sound", e.target.checked);
            setSound(e.target.checked);
          }}
        />
        with a sound
      </label>
      {refused && <span role="status">This browser does not let the page notify; the window’s title says it.</span>}
    </span>
  );
}
