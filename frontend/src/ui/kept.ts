import { useEffect, useRef, useState, type Dispatch, type SetStateAction } from "react";

/** What a window keeps for itself: it survives Back, Forward and a reload, and is gone with the window. */

const PREFIX = "gentle-ledger/";

/** What is kept under a key; without it `initial`. */
export function keptOf<T>(key: string, initial: T): T {
  try {
    const text = sessionStorage.getItem(PREFIX + key);
    return text === null ? initial : (JSON.parse(text) as T);
  } catch {
    return initial;
  }
}

/** Keeps a value under a key; undefined forgets it. */
export function keep(key: string, value: unknown): void {
  try {
    if (value === undefined) sessionStorage.removeItem(PREFIX + key);
    else sessionStorage.setItem(PREFIX + key, JSON.stringify(value));
  } catch {
    // Without room to keep it, it is as before: there until the page is left.
  }
}

/** A state that the window keeps under a key; set to undefined it is forgotten. */
export function useKept<T>(key: string, initial: T): [T, Dispatch<SetStateAction<T>>] {
  const [value, setValue] = useState(() => keptOf(key, initial));
  // What it began with is not kept: it may be another one by the time the window comes back to it.
  const begun = useRef(true);
  useEffect(() => {
    if (begun.current) begun.current = false;
    else keep(key, value);
  }, [key, value]);
  return [value, setValue];
}
