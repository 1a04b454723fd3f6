import { useEffect } from "react";

let named = "";
let news = "";

const show = () => {
  document.title = [news, named, "Gentle Ledger"].filter(Boolean).join(" · ");
};

/** Names the page: the window's title says the round and the view, also to who hears it read. */
export function useTitle(title: string): void {
  useEffect(() => {
    named = title;
    show();
  }, [title]);
}

/** Puts news in front of the title, until it is taken off with "". */
export function setNews(words: string): void {
  news = words;
  show();
}
