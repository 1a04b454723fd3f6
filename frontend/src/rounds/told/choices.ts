/** How one wants to be told; kept in this browser. */

const NAMES = { notification: "gentle-ledger/told by a notification", sound: "gentle-ledger/told by a sound" } as const;

export type Way = keyof typeof NAMES;

const kept = (way: Way): boolean => {
  try {
    return localStorage.getItem(NAMES[way]) === "yes";
  } catch {
    return false;
  }
};

export const wants = { notification: () => kept("notification"), sound: () => kept("sound") };

export function choose(way: Way, on: boolean): void {
  try {
    if (on) localStorage.setItem(NAMES[way], "yes");
    else localStorage.removeItem(NAMES[way]);
  } catch {
    // Where nothing can be kept it holds for nothing, and the title says it all the same.
  }
}
