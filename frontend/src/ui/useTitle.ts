import { useEffect } from "react";

/** Names the page: the window's title says the round and the view, also to who hears it read. */
export function useTitle(title: string): void {
  useEffect(() => {
    document.title = `${title} · Gentle Ledger`;
  }, [title]);
}
