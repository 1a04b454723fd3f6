import { useEffect, useState } from "react";

const SETTLED_AFTER = 350;

/** The text once typing has rested. */
export function useSettled(text: string): string {
  const [settled, setSettled] = useState(text);
  useEffect(() => {
    const rest = setTimeout(() => setSettled(text), SETTLED_AFTER);
    return () => clearTimeout(rest);
  }, [text]);
  return settled;
}
