/** What lets this browser in: a cookie that the program gave, and a value in this page's own storage that goes with it. */

const KEPT = "gentle-ledger-value";
const HEADER = "Gentle-Ledger-Value";

/** Whether the program opens only for who has its key. */
export const keyed = document.querySelector<HTMLMetaElement>('meta[name="keyed"]')?.content === "yes";

const kept = (): string => {
  try {
    return localStorage.getItem(KEPT) ?? "";
  } catch {
    // A browser that keeps nothing for any page.
    return "";
  }
};

let windowName = "";

/** Says under which name this window is known from now on. */
export const callWindow = (name: string): void => {
  windowName = name;
};

/** The headers with the value, and with this window's name. */
export const ownHeader = (): Record<string, string> => ({
  ...(kept() ? { [HEADER]: kept() } : {}),
  ...(windowName ? { "Gentle-Ledger-Window": windowName } : {}),
});

/** An address that is opened without headers: a stream, or a file that is saved. */
export const withValue = (path: string): string =>
  kept() ? `${path}${path.includes("?") ? "&" : "?"}value=${encodeURIComponent(kept())}` : path;

/** Whether this page was let in once, as far as it knows itself. */
export const wasLetIn = (): boolean => kept() !== "";

/** Keeps the value; false in a browser that keeps nothing for any page. */
export const keepValue = (value: string): boolean => {
  try {
    localStorage.setItem(KEPT, value);
    return true;
  } catch {
    return false;
  }
};

let answered = false;
const listeners = new Set<() => void>();

/** An answer came: of the first one it is told whether the key was missing, before anything was typed. */
export function heard(status: number): void {
  if (status === 401 && !answered) listeners.forEach((each) => each());
  if (status < 400) answered = true;
}

/** Calls `found` once the program says that this browser has no key; what it gives back ends that. */
export function onNoKey(found: () => void): () => void {
  listeners.add(found);
  return () => listeners.delete(found);
}
