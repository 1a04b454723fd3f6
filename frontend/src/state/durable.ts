/**
 * What is typed and not kept by the program yet, on this machine's disk: it survives a reload, a closed window and a
 * power cut. Each window has its own; what one left behind is taken over by the next that is opened.
 */

const [NAME, STORE, WINDOW] = ["gentle-ledger", "typed", "gentle-ledger/window"];
/** How long a window waits for its name to be free: the page before it, in a reload, may not be gone yet; in ms. */
const NAME_FREE_WITHIN = 2_000;
/** How long a window that is only made anew may be without its name, in ms; and one that was closed, until it is taken for that. */
const [MADE_ANEW, CLOSED_FOR] = [250, 10_000];
/** After how long a draft is of no use to anybody any more, in ms; what was done and is not kept yet stays. */
const FORGOTTEN_AFTER = 90 * 86_400_000;

type Kept = { value: unknown; at: number };
type Line = { window: string; key: string } & Kept;

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
  if (value !== undefined) mine.set(key, kept);
  // What is not there need not be forgotten: most drafts never begin.
  else if (!mine.delete(key)) return;
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

/** The windows that are open now and, where one may just be made anew, a moment later. */
async function windowsAlive(all: Line[]): Promise<Set<string>> {
  const now = await windowsOpen();
  if (all.every(({ window }) => window === name)) return now;
  await new Promise((done) => setTimeout(done, MADE_ANEW));
  return new Set([...now, ...(await windowsOpen())]);
}

const everything = async (): Promise<Line[]> => (disk ? ((await answered(disk.transaction(STORE).objectStore(STORE).getAll())) as Line[]) : []);

/** Takes over what a window has that is not open any more. */
function takeOver(all: Line[]): void {
  for (const { window, key, value, at } of all) {
    const [known, old] = [mine.get(key), Date.now() - at > FORGOTTEN_AFTER && !key.startsWith("unsent/")];
    if (!old && (!known || known.at < at)) mine.set(key, { value, at });
    if (window === name && !old) continue;
    write((typed) => {
      typed.delete([window, key]);
      const kept = mine.get(key);
      if (kept) typed.put({ window: name, key, ...kept });
    });
  }
}

/** Takes over what another window leaves behind when it is closed for good, and tells of it. */
function waitFor(other: string, onTaken: () => void): void {
  const closed = async () => {
    if ((await windowsOpen()).has(other)) waitFor(other, onTaken);
    else {
      takeOver((await everything()).filter(({ window }) => window === other));
      onTaken();
    }
  };
  void navigator.locks.request(`${NAME}/${other}`, () => undefined).then(() => setTimeout(() => void closed(), CLOSED_FOR));
}

/** Tells whenever this window has taken over what another one left that was open when this one was opened. */
export async function watchOthers(onTaken: () => void): Promise<void> {
  if (!("locks" in navigator)) return;
  const open = await windowsOpen();
  for (const other of open) if (other !== name) waitFor(other, onTaken);
}

/** Readies what is kept, before anything is drawn. A browser that keeps nothing for any page is as well, until it is closed. */
export async function openKept(): Promise<void> {
  try {
    await takeName();
    const opening = indexedDB.open(NAME, 1);
    opening.onupgradeneeded = () => opening.result.createObjectStore(STORE, { keyPath: ["window", "key"] });
    disk = await answered(opening);
    disk.onversionchange = () => disk?.close();
    const all = await everything();
    const alive = await windowsAlive(all);
    takeOver(all.filter(({ window }) => window === name || !alive.has(window)));
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
