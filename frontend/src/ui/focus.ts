/**
 * Where the focus is, and where it goes when what had it is taken away. The parts of a page say their name in
 * `data-region`, and what in them has the focus first in `data-first`.
 */

/** What the Tab key goes to. */
export const TABBABLE =
  'a[href], button:not(:disabled), input:not(:disabled), select:not(:disabled), textarea:not(:disabled), [contenteditable="true"], [tabindex]:not([tabindex="-1"])';
const PASSING = "[role=dialog], [role=menu]";
const REMEMBERED = 300;
/** What closes gives the focus back by itself a moment later; only what is lost after that is looked for, in ms. */
const LOST_AFTER = 40;
/** What is only hidden makes way for something that is still to come. */
const HIDDEN_AFTER = 400;

type Had = { element: HTMLElement; region: string | undefined };
const had: Had[] = [];

const visible = (element: HTMLElement): boolean => element.isConnected && element.getClientRects().length > 0;
const usable = (element: HTMLElement): boolean => visible(element) && !element.matches(":disabled");

/** The element of a part that has the focus first, if the part is on the screen. */
export function firstIn(part: HTMLElement): HTMLElement | null {
  const first = [...part.querySelectorAll<HTMLElement>("[data-first]")].find(usable);
  return first ?? [...part.querySelectorAll<HTMLElement>(TABBABLE)].find(usable) ?? null;
}

const regions = (): HTMLElement[] => [...document.querySelectorAll<HTMLElement>("[data-region]")].filter(visible);

/** Moves the focus to a part of the page. False when it is not on the screen, or nothing in it can have the focus. */
export function focusRegion(name: string): boolean {
  const part = regions().find((each) => each.dataset["region"] === name);
  const target = part && firstIn(part);
  target?.focus();
  target?.scrollIntoView({ block: "nearest" });
  return !!target;
}

/** True when a part has the focus already: whoever writes in it must not be taken out of it. */
export const hasFocus = (name: string): boolean => document.activeElement?.closest<HTMLElement>("[data-region]")?.dataset["region"] === name;

const aims = new Map<string, number>();
/** How long after it was aimed for a part may have the focus by that, in ms. */
const AIMED_WITHIN = 2_000;

/** When the focus of a part that has it now was asked for, by the clock of the page, in ms: letters behind that are meant for it. */
export function aimedAt(name: string): number {
  const [now, aimed] = [performance.now(), aims.get(name) ?? -Infinity];
  return now - aimed < AIMED_WITHIN ? aimed : now;
}

let promised = 0;

/** The focus is for something on its way, until the answer is called: given elsewhere meanwhile, what had it is forgotten. */
export function promiseFocus(): () => void {
  promised++;
  return () => {
    promised--;
  };
}

/** True while something that lies over the page has the focus. */
export const isPassing = (): boolean => !!document.activeElement?.closest(PASSING);

/** What lies over the page keeps the focus for as long as it is there. */
const takes = (name: string): boolean => !isPassing() && (hasFocus(name) || focusRegion(name));

/**
 * The same for a part that is about to come; of several the first that is there. What is there has the focus at once, for
 * what is typed behind it, and once more when what closes has given the focus back.
 */
export function focusSoon(first: string, ...others: string[]): void {
  let times = 0;
  for (const name of [first, ...others]) aims.set(name, performance.now());
  const kept = promiseFocus();
  takes(first);
  const look = () => {
    const taken = [first, ...others].some(takes);
    if (!taken && ++times < 40) setTimeout(look, 25);
    else {
      kept();
      if (!taken) find();
    }
  };
  setTimeout(look, 30);
}

let acts = 0;

/** Asked now, tells later whether the hand has done nothing since: only then is what it gets late put under it. */
export function handAtRest(): () => boolean {
  const before = acts;
  return () => acts === before;
}

/** Goes round the parts of the page, as F6 does by custom. */
export function nextRegion(by: 1 | -1): void {
  const all = regions().filter((part) => firstIn(part));
  const here = all.findIndex((part) => part.contains(document.activeElement));
  const next = all.at(here < 0 ? (by > 0 ? 0 : -1) : (here + by) % all.length);
  const target = next && firstIn(next);
  target?.focus();
  target?.scrollIntoView({ block: "nearest" });
}

/** Gives the focus back to what had it last and is still there; dialogs and menus only had it in passing. */
export function giveBack(): void {
  const before = had.findLast(({ element }) => usable(element) && !element.closest(PASSING));
  if (before) before.element.focus();
  else focusRegion("sheet");
}

function find(): void {
  const last = had.at(-1);
  const nowhere = !document.activeElement || document.activeElement === document.body;
  if (promised > 0 || !last || !nowhere || usable(last.element)) return;
  if (!(last.region && focusRegion(last.region))) giveBack();
}

/** Watches over the focus for as long as the page is open. */
export function watchFocus(): void {
  let looking: ReturnType<typeof setTimeout> | undefined;
  for (const act of ["keydown", "pointerdown"]) document.addEventListener(act, () => acts++, true);
  document.addEventListener("focusin", ({ target }) => {
    if (!(target instanceof HTMLElement)) return;
    had.push({ element: target, region: target.closest<HTMLElement>("[data-region]")?.dataset["region"] });
    if (had.length > REMEMBERED) had.shift();
  });
  new MutationObserver(() => {
    clearTimeout(looking);
    looking = setTimeout(find, had.at(-1)?.element.isConnected ? HIDDEN_AFTER : LOST_AFTER);
  }).observe(document.body, { childList: true, subtree: true, attributes: true, attributeFilter: ["disabled", "hidden"] });
}
