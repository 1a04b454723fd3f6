/** Whether somebody begins here for the first time: told by a ledger without a round, until the first desk was explained. */
const KEY = "gentle-ledger/beginner";

export function isBeginner(): boolean {
  try {
    return localStorage.getItem(KEY) === "yes";
  } catch {
    return false;
  }
}

/** A ledger without a round makes a beginner, once; "now" ends that. */
export function beginnerUntil(when: "the first desk" | "now"): void {
  try {
    if (when === "now") localStorage.setItem(KEY, "no");
    else if (localStorage.getItem(KEY) === null) localStorage.setItem(KEY, "yes");
  } catch {
    // A browser that keeps nothing explains nothing.
  }
}
