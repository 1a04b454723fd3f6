/**
 * What is typed and not kept by the program yet, on this machine's disk: it survives a reload, a closed window and a
 * power cut. Each window has its own; what one left behind is taken over by the next that is opened.
 */

const [NAME, STORE, WINDOW] = ["gentle-ledger", "typed", "gentle-ledger/window"];
/** How long a window waits for a name of its own to be free: the page before it, in a reload, may not be gone yet; in ms. */
const NAME_FREE_WITHIN = 300;

type Kept = { value: unknown; at: number };
type Record_ = { window: string; key: string } & Kept;

const mine = new Map<string, Kept>();
let disk: IDBDatabase | null = null;
let name = fresh();

function fresh(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(12)), (byte) => byte.toString(16).padStart(2, "0")).join("");
}

/** This window's own random name. */
export const windowName = (): string => name;

/** Whether what is kept is on the disk; without one it is there only until the window is closed. */
export const isDurable = (): boolean => disk !== null;

/** What is kept under a key; undefined for nothing. */
export const keptUnder = (key: string): unknown => mine.get(key)?.value;

/** All that is kept under keys that begin so, the oldest first. */
export const keptBelow = (prefix: string): [string, unknown][] =>
  [...mine]
    .filter(([key]) => key.startsWith(prefix))
    .sort(([, a], [, b]) => a.at - b.at)
    .map(([key, { value }]) => [key, value]);

/** Keeps a value under a key; undefined forgets it. */
export function keepUnder(key: string, value: unknown): void {
  const kept = { value, at: Date.now() };
  if (value === undefined) mine.delete(key);
  else mine.set(key, kept);
  write((typed) => (value === undefined ? typed.delete([name, key]) : typed.put({ window: name, key, ...kept })));
}

/** One transaction that is on the disk before it counts as done; what it cannot write stays in the window. */
function write(change: (typed: IDBObjectStore) => unknown): void {
  if (!disk) return;
  try {
    const all = disk.transaction(STORE, "readwrite", { durability: "strict" });
    change(all.objectStore(STORE));
    all.commit();
  } catch {
    // The browser took its store away: from now on the window asks before it is closed.
    disk = null;
  }
}

const answered = <T>(asked: IDBRequest<T>): Promise<T> =>
  new Promise((done, failed) => {
    asked.onsuccess = () => done(asked.result);
    asked.onerror = () => failed(asked.error ?? new Error("no store"));
  });

/** Takes a name that no other window has: a window that was made from another one begins with that one's. */
async function takeName(): Promise<void> {
  name = sessionStorage.getItem(WINDOW) ?? name;
  if ("locks" in navigator && !(await held(name))) {
    name = fresh();
    await held(name);
  }
  sessionStorage.setItem(WINDOW, name);
}

/** Holds a name for as long as the window is open; false where another window has it. */
const held = (wanted: string): Promise<boolean> =>
  new Promise((done) => {
    const late = AbortSignal.timeout(NAME_FREE_WITHIN);
    navigator.locks
      .request(`${NAME}/${wanted}`, { signal: late }, () => {
        done(true);
        return new Promise<never>(() => undefined);
      })
      .catch(() => done(false));
  });

/** The windows that are open, as far as the browser tells. */
async function windowsOpen(): Promise<Set<string>> {
  if (!("locks" in navigator)) return new Set();
  const { held: all } = await navigator.locks.query();
  return new Set(all?.map((lock) => lock.name?.slice(NAME.length + 1) ?? ""));
}

/** Readies what is kept, before anything is drawn. A browser that keeps nothing for any page is as well, until it is closed. */
export async function openKept(): Promise<void> {
  try {
    await takeName();
    const opening = indexedDB.open(NAME, 1);
    opening.onupgradeneeded = () => opening.result.createObjectStore(STORE, { keyPath: ["window", "key"] });
    disk = await answered(opening);
    disk.onversionchange = () => disk?.close();
    const all = (await answered(disk.transaction(STORE).objectStore(STORE).getAll())) as Record_[];
    const open = await windowsOpen();
    for (const { window, key, value, at } of all) {
      if (window !== name && open.has(window)) continue;
      const known = mine.get(key);
      if (!known || known.at < at) mine.set(key, { value, at });
      if (window === name) continue;
      write((typed) => {
        typed.delete([window, key]);
        const kept = mine.get(key);
        if (kept) typed.put({ window: name, key, ...kept });
      });
    }
  } catch {
    disk = null;
  }
}

/** Has the browser ask before a window is closed where what was typed is only in it. */
export function watchClosing(): void {
  window.addEventListener("beforeunload", (event) => {
    if (mine.size && !isDurable()) event.preventDefault();
  });
}
