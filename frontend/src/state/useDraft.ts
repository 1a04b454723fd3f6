import { useCallback, useEffect, useRef, useState, type Dispatch, type SetStateAction } from "react";
import { keepUnder, keptUnder } from "./durable.ts";

/**
 * What is being written and was not put in yet. It is there again when the same is opened once more, after a reload and
 * in another window, until `forget` is called: what was put in, or given up knowingly, is no draft any more.
 */
export function useDraft<T>(key: string, initial: T): [T, Dispatch<SetStateAction<T>>, () => void] {
  const [value, setValue] = useState<T>(() => (keptUnder(key) as T | undefined) ?? initial);
  // What it began with is not kept: it may be another one by the time somebody comes back to it.
  const [begun] = useState(() => JSON.stringify(initial));
  const changed = JSON.stringify(value) !== begun;
  const over = useRef(false);
  useEffect(() => {
    if (!over.current) keepUnder(key, changed ? value : undefined);
  }, [key, value, changed]);
  const forget = useCallback(() => {
    over.current = true;
    keepUnder(key, undefined);
  }, [key]);
  const set = useCallback<Dispatch<SetStateAction<T>>>((next) => {
    over.current = false;
    setValue(next);
  }, []);
  return [value, set, forget];
}
