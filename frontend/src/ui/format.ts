/** How counts and moments are written on the screen. Amounts come finished from the program. */

const whole = new Intl.NumberFormat("en-CA");

export const figure = (n: number): string => whole.format(n);

/** A part of a sentence made to stand alone. */
export const sentenceCase = (words: string): string => words.charAt(0).toUpperCase() + words.slice(1);

export const counted = (n: number, noun: string, plural = `${noun}s`): string =>
  `${figure(n)} ${n === 1 ? noun : plural}`;

/** The office's time zone: what is written is written by its clocks, wherever the page is looked at. */
const zone = (() => {
  const named = typeof document === "undefined" ? undefined : document.querySelector<HTMLMetaElement>("meta[name=office-zone]")?.content;
  try {
    return named && new Intl.DateTimeFormat("en-CA", { timeZone: named }) ? { timeZone: named } : {};
  } catch {
    return {};
  }
})();

const time = new Intl.DateTimeFormat("en-CA", { ...zone, hour: "2-digit", minute: "2-digit", hourCycle: "h23" });
const seconds = new Intl.DateTimeFormat("en-CA", {
  ...zone,
  hour: "2-digit",
  minute: "2-digit",
  second: "2-digit",
  hourCycle: "h23",
});
const day = new Intl.DateTimeFormat("en-CA", { ...zone, month: "short", day: "numeric", year: "numeric" });
const shortDay = new Intl.DateTimeFormat("en-CA", { ...zone, weekday: "short", month: "short", day: "numeric" });

export const clock = (iso: string): string => time.format(new Date(iso));
export const clockSeconds = (iso: string): string => seconds.format(new Date(iso));
/** A day that has no time is that day in any zone. */
const plainDay = new Intl.DateTimeFormat("en-CA", { timeZone: "UTC", month: "short", day: "numeric", year: "numeric" });
export const dayOf = (iso: string): string => (iso.length === 10 ? plainDay.format(new Date(`${iso}T12:00Z`)) : day.format(new Date(iso)));

/** "14:52", or "Wed, Nov 25, 14:52" when that is not today. */
export function moment(iso: string, now = new Date()): string {
  const when = new Date(iso);
  return day.format(when) === day.format(now) ? clock(iso) : `${shortDay.format(when)}, ${clock(iso)}`;
}

/** A wait in whole seconds, as it is said: "40 s", "4 min". */
export const lasting = (wait: number): string => (wait < 100 ? `${wait} s` : `${Math.round(wait / 60)} min`);
