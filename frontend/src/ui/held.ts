import { TABBABLE } from "./focus.ts";

/**
 * Keys that come while something opens: they go where it will be, all of them or, where it does not come, none. And
 * letters that follow one another: those that began elsewhere are not meant for where the hand is put meanwhile.
 */

/** How long a hand may rest between two letters of one word, in ms. */
const ONE_WORD = 1_500;
/** How long is waited for what was opened to have the hand, in ms. */
const THERE_WITHIN = 1_000;
const LOOKS_EVERY = 15;

let holding = 0;
let replaying = false;
let kept: KeyboardEvent[] = [];
let began = 0;
let last = -Infinity;
let within = false;
let acted = -Infinity;

const isLetter = (event: KeyboardEvent): boolean => event.key.length === 1 && !event.ctrlKey && !event.metaKey && (!event.altKey || event.getModifierState("AltGraph"));

/** When the letters that are being typed began, by the clock of the page, in ms. */
export const lettersBegan = (): number => began;

/** When a key that is no letter was last pressed, or a button of the mouse, by the clock of the page, in ms. */
export const actedAt = (): number => acted;

/** Holds all keys until the answer is called, and then until `there` is true; they go to what has the focus by then. */
export function holdKeys(there: () => boolean): () => void {
  holding++;
  let over = false;
  return () => {
    if (over) return;
    over = true;
    const since = performance.now();
    const look = () => {
      const late = performance.now() - since > THERE_WITHIN;
      if (!there() && !late) {
        setTimeout(look, LOOKS_EVERY);
        return;
      }
      holding--;
      if (late) kept = [];
      else if (holding === 0) void replay();
    };
    look();
  };
}

async function replay(): Promise<void> {
  if (replaying) return;
  replaying = true;
  for (let key = kept.shift(); key; key = kept.shift()) {
    press(key);
    await new Promise((done) => setTimeout(done));
  }
  replaying = false;
}

/** Does what a key does where the focus is: what listens hears it, and what the browser would do is done. */
function press({ key, code, ctrlKey, altKey, shiftKey, metaKey }: KeyboardEvent): void {
  const at = document.activeElement;
  if (!(at instanceof HTMLElement)) return;
  const again = new KeyboardEvent("keydown", { key, code, ctrlKey, altKey, shiftKey, metaKey, bubbles: true, cancelable: true });
  if (!at.dispatchEvent(again) || ctrlKey || altKey || metaKey) return;
  const writes = at.matches("input, textarea, [contenteditable=true]");
  if (key === "Tab") tab(at, shiftKey ? -1 : 1);
  else if (at.matches("button, a") && (key === "Enter" || key === " ")) at.click();
  else if (key === "Enter" && at instanceof HTMLInputElement) at.form?.requestSubmit();
  // The one way in which both a field and a writing box take what is typed as typed, with a step back.
  else if (writes && key.length === 1) document.execCommand("insertText", false, key);
  else if (writes && key === "Backspace") document.execCommand("delete");
}

function tab(from: HTMLElement, by: 1 | -1): void {
  const all = [...document.querySelectorAll<HTMLElement>(TABBABLE)].filter((each) => each.getClientRects().length > 0);
  all[all.indexOf(from) + by]?.focus();
}

/** Watches the keys for as long as the page is open; to be called before anybody else listens. */
export function watchKeys(): void {
  window.addEventListener(
    "keydown",
    (event) => {
      if (!event.isTrusted) return;
      if (["Shift", "Control", "Alt", "AltGraph", "Meta"].includes(event.key)) return;
      const now = event.timeStamp;
      if (!isLetter(event)) [within, acted] = [false, now];
      else {
        if (!within || now - last > ONE_WORD) began = now;
        [within, last] = [true, now];
      }
      if (!holding && !replaying) return;
      kept.push(event);
      event.preventDefault();
      event.stopImmediatePropagation();
    },
    true,
  );
  window.addEventListener("pointerdown", (event) => ([within, acted] = [false, event.timeStamp]), true);
}
