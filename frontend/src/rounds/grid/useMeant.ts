import { useLayoutEffect, useRef, useState } from "react";
import { aimedAt } from "../../ui/focus.ts";
import { actedAt, lettersBegan } from "../../ui/held.ts";

/**
 * Whether the letters that are being typed are meant for the chosen cell: not where their word began before the hand was
 * put there, nor before it was seen there, unless it was moved by a key or the mouse since the sheet was there.
 */
export function useMeant(isDrawn: boolean) {
  const [madeAt] = useState(() => performance.now());
  const drawnAt = useRef(Infinity);
  const focusedAt = useRef(0);
  useLayoutEffect(() => {
    if (isDrawn && drawnAt.current === Infinity) drawnAt.current = performance.now();
  }, [isDrawn]);
  return {
    meant: (): boolean => lettersBegan() >= Math.max(actedAt() > madeAt ? madeAt : drawnAt.current, focusedAt.current),
    /** To be told when the sheet gets the focus. */
    onFocused: (): void => {
      focusedAt.current = aimedAt("sheet");
    },
  };
}
