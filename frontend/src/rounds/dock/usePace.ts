import { useCallback, useEffect, useRef } from "react";
import type { Pace } from "../../api/client.ts";
import { useNotices } from "../../ui/notices.tsx";

/** Changes parts of a pace. The next may be set before the program has answered the last one: each is set upon what was set last. */
export function usePace(pace: Pace, onChange: (pace: Pace) => void): (part: Partial<Pace>) => void {
  const notices = useNotices();
  const set = useRef(pace);
  useEffect(() => {
    set.current = pace;
  }, [pace]);
  return useCallback(
    (part: Partial<Pace>) => {
      const before = set.current.give_or_take;
      const wanted = { ...set.current, ...part };
      set.current = part.every === undefined ? wanted : { ...wanted, give_or_take: Math.min(before, part.every) };
      onChange(set.current);
      if (part.every !== undefined && set.current.give_or_take !== before)
        notices.done(`“Give or take” is ${set.current.give_or_take} s now, and was ${before} s: it is never more than the gap. Undo takes both back.`);
    },
    [onChange, notices],
  );
}
