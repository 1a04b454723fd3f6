/** How counts and moments are written on the screen. Amounts come finished from the program. */

const whole = new Intl.NumberFormat("en-CA");

export const figure = (n: number): string => whole.format(n);

/** A part of a sentence made to stand alone. */
export const sentenceCase = (words: string): string => words.charAt(0).toUpperCase() + words.slice(1);

export const counted = (n: number, noun: string, plural = `${noun}s`): string =>
  `${figure(n)} ${n === 1 ? noun : plural}`;

const time = new Intl.DateTimeFormat("en-CA", { hour: "2-digit", minute: "2-digit", hourCycle: "h23" });
const seconds = new Intl.DateTimeFormat("en-CA", {
  hour: "2-digit",
  minute: "2-digit",
  second: "2-digit",
  hourCycle: "h23",
});
const day = new Intl.DateTimeFormat("en-CA", { month: "short", day: "numeric", year: "numeric" });
const shortDay = new Intl.DateTimeFormat("en-CA", { weekday: "short", month: "short", day: "numeric" });

export const clock = (iso: string): string => time.format(new Date(iso));
export const clockSeconds = (iso: string): string => seconds.format(new Date(iso));
export const dayOf = (iso: string): string => day.format(new Date(iso.length === 10 ? `${iso}T12:00` : iso));

/** "14:52", or "Wed, Nov 25, 14:52" when that is not today. */
export function moment(iso: string, now = new Date()): string {
  const when = new Date(iso);
  return when.toDateString() === now.toDateString() ? clock(iso) : `${shortDay.format(when)}, ${clock(iso)}`;
}

/** A wait in whole seconds, as it is said: "40 s", "4 min". */
export const lasting = (wait: number): string => (wait < 100 ? `${wait} s` : `${Math.round(wait / 60)} min`);
