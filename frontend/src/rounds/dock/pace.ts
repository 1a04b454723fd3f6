/** A pace in words. When anything leaves is worked out by the program; only what was set is written here. */

import type { Pace, Weekday } from "../../api/client.ts";

/** "09:00" as it is said: "9:00". */
export const timeSaid = (time: string): string => time.replace(/^0(?=\d)/, "").slice(0, time.startsWith("0") ? 4 : 5);

/** A moment without an offset, as it is said: "Tue, Dec 1, 9:00". */
export function momentOfOffice(moment: string): string {
  const [day = "", time = ""] = moment.split("T");
  const named = new Intl.DateTimeFormat("en-CA", { weekday: "short", month: "short", day: "numeric", timeZone: "UTC" }).format(new Date(`${day}T12:00:00Z`));
  return `${named}, ${timeSaid(time.slice(0, 5))}`;
}

/** Days of the week as they are said: "Mon to Fri", "every day", "Mon, Wed". */
export function dayRange(days: Weekday[], week: Weekday[]): string {
  if (days.length === week.length) return "every day";
  const first = week.indexOf(days[0] ?? "Mon");
  const together = days.length > 2 && days.every((day, i) => week[first + i] === day);
  return together ? `${days[0]} to ${days.at(-1)}` : days.join(", ");
}

/** An order as it is said. */
export function orderSaid(order: string | null | undefined): string {
  if (!order) return "the sheet’s own order";
  if (order === "shuffled") return "no order: shuffled";
  return order.startsWith("-") ? `${order.slice(1)}, largest first` : `${order}, smallest first`;
}

/** How many things a pace says besides its gap. */
export const moreSaid = (pace: Pace): number =>
  [pace.after > 0, pace.per_day.length > 0, pace.hours, pace.start, pace.at, pace.order].filter(Boolean).length;
