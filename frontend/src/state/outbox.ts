/** What was done here and is not kept by the program yet: sent in order, each once, for as long as it takes. */

/** What the program is asked for, as plain data: it may be sent by another page than the one that made it. */
export type Order = { method: "post" | "put" | "patch" | "delete"; path: string; init: { params: object; body?: object } };

export type InCell = { row: number; column: string; typed: string; was: string };

/** A place in which another window wrote something else meanwhile. */
export type Place = { where: string; theirs: string; mine: string; row: number | null; column: string | null };

export type Conflict = { sentence: string; places: Place[]; further: number; version: number };

export type Entry = {
  /** Under which the program does it once, however often it is asked. */
  key: string;
  round: number;
  /** The round's random id: what was typed for another ledger is written into none. */
  uid: string;
  /** The newest version of the round that was shown by then. */
  seen: number;
  order: Order;
  /** What it is, for the clerk: "“12.50” in row 3, Due". */
  label: string;
  cell: InCell | null;
  /** Whether it may have reached the program: then it is not changed any more. */
  tried: boolean;
  conflict: Conflict | null;
};

export type Outcome =
  | { kind: "done"; answer: unknown }
  | { kind: "refused"; error: unknown }
  | { kind: "behind"; conflict: Conflict }
  | { kind: "unreachable"; sentence: string };

export type Settled = { kind: "done"; answer: unknown } | { kind: "refused"; error: unknown } | { kind: "given up" };

type Store = {
  below: (prefix: string) => [string, unknown][];
  keep: (key: string, value: unknown) => void;
};

type Means = {
  store: Store;
  send: (entry: Entry) => Promise<Outcome>;
  /** Waits before the program is asked once more, a while that grows with the times. */
  rest: (times: number) => Promise<void>;
  newKey: () => string;
  /** Told how each ended that nobody here waits for any more, as after a reload. */
  ended: (entry: Entry, settled: Settled) => void;
};

const UNSENT = "unsent/";
const STEP = /\/(undo|redo)$/;

/** `lately` is what was done, with the version of the round after it, until that is on the screen. */
type Queue = { entries: Entry[]; lately: { entry: Entry; version: number }[]; busy: boolean; away: string };

/** See the module. One queue a round; listeners are told of every change. */
export class Outbox {
  readonly #means: Means;
  readonly #queues = new Map<number, Queue>();
  readonly #waiting = new Map<string, ((settled: Settled) => void)[]>();
  readonly #places = new Map<string, string>();
  readonly #listeners = new Set<() => void>();
  #last = 0;
  #shown: Record<number, Shown> = {};

  constructor(means: Means) {
    this.#means = means;
  }

  /** Goes on with what an earlier page, or a window that was closed, left unsent. */
  restore(): void {
    for (const [place, value] of this.#means.store.below(UNSENT)) {
      const entry = { ...(value as Entry), tried: true };
      const queue = this.#queue(entry.round);
      if (queue.entries.some((each) => each.key === entry.key)) continue;
      this.#places.set(entry.key, place);
      queue.entries.push(entry);
    }
    for (const round of this.#queues.keys()) void this.#run(round);
    this.#tell();
  }

  /** Takes something on; resolves once the program has done it, has refused it, or it was given up. */
  add(made: Omit<Entry, "key" | "tried" | "conflict">): Promise<Settled> {
    const queue = this.#queue(made.round);
    const before = made.cell && this.#sameCell(queue, made.cell);
    if (before && made.cell && before.cell) {
      // What was not sent yet is changed in its place: one deed, over what stood there before it.
      const { was } = before.cell;
      this.#put(before, { ...made, cell: { ...made.cell, was }, order: but(made.order, { was }), seen: before.seen });
      return this.#settled(before.key);
    }
    const entry: Entry = { ...made, key: this.#means.newKey(), tried: false, conflict: null };
    queue.entries.push(entry);
    this.#keep(entry);
    const settled = this.#settled(entry.key);
    void this.#run(made.round);
    this.#tell();
    return settled;
  }

  /** Takes back the last thing that is still only here; false where it may have reached the program. */
  takeBack(round: number): boolean {
    const queue = this.#queue(round);
    const last = queue.entries.at(-1);
    // A step back is taken back by a step forward, not by another one back.
    if (!last || last.tried || last.conflict || STEP.test(last.order.path)) return false;
    this.#end(queue, last, { kind: "given up" });
    return true;
  }

  /** The clerk chose between the two: what was done here is done over the other window's but for the cells to be spared, or given up. */
  choose(round: number, key: string, mine: boolean, spare: [number, string][] = []): void {
    const queue = this.#queue(round);
    const entry = queue.entries.find((each) => each.key === key);
    if (!entry?.conflict) return;
    if (!mine) {
      this.#end(queue, entry, { kind: "given up" });
      return;
    }
    const { version, places } = entry.conflict;
    const theirs = entry.cell ? (places[0]?.theirs ?? entry.cell.was) : "";
    const cell = entry.cell && { ...entry.cell, was: theirs };
    const changed = cell ? { was: theirs } : spare.length ? { spare } : {};
    // Shown, it is asked for anew: under the old key nothing was done.
    this.#put(entry, { key: this.#means.newKey(), seen: version, conflict: null, tried: false, cell, order: but(entry.order, changed) });
    void this.#run(round);
  }

  /** Gives up what the program does not take, so that the rest may go on. */
  giveUp(round: number, key: string): void {
    const queue = this.#queue(round);
    const entry = queue.entries.find((each) => each.key === key);
    if (entry) this.#end(queue, entry, { kind: "given up" });
  }

  /** Resolves once nothing of a round waits to be kept any more, but for what the clerk is asked about. */
  kept(round: number): Promise<void> {
    return new Promise((done) => {
      const look = () => {
        if (this.shown(round).waiting.length) return;
        this.#listeners.delete(look);
        done();
      };
      this.#listeners.add(look);
      look();
    });
  }

  /** What is not kept yet of a round; the same object for as long as nothing changes. */
  readonly shown = (round: number): Shown => (this.#shown[round] ??= shownOf(this.#queues.get(round)));

  readonly listen = (listener: () => void): (() => void) => {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  };

  #queue(round: number): Queue {
    const known = this.#queues.get(round) ?? { entries: [], lately: [], busy: false, away: "" };
    this.#queues.set(round, known);
    return known;
  }

  /** What is written in the same cell and was not sent yet, with nothing but other cells after it. */
  #sameCell(queue: Queue, { row, column }: InCell): Entry | null {
    for (const entry of queue.entries.toReversed()) {
      if (!entry.cell) return null;
      if (entry.cell.row === row && entry.cell.column === column) return entry.tried && !entry.conflict ? null : entry;
    }
    return null;
  }

  async #run(round: number): Promise<void> {
    const queue = this.#queue(round);
    if (queue.busy) return;
    queue.busy = true;
    for (let times = 0; ; ) {
      const next = queue.entries.find((entry) => !entry.conflict);
      if (!next) break;
      if (!next.tried) this.#put(next, { tried: true });
      const sent = next.key;
      const outcome = await this.#means.send(next);
      if (outcome.kind !== "unreachable") {
        times = 0;
        queue.away = "";
      }
      // Given up meanwhile, it is out of the queue.
      if (!queue.entries.some((each) => each.key === sent)) continue;
      if (outcome.kind === "behind") this.#put(next, { conflict: outcome.conflict });
      else if (outcome.kind !== "unreachable") this.#end(queue, next, outcome);
      else {
        queue.away = outcome.sentence;
        this.#tell();
        await this.#means.rest(++times);
      }
    }
    queue.busy = false;
    this.#tell();
  }

  #settled(key: string): Promise<Settled> {
    return new Promise((done) => this.#waiting.set(key, [...(this.#waiting.get(key) ?? []), done]));
  }

  #end(queue: Queue, entry: Entry, settled: Settled): void {
    queue.entries.splice(queue.entries.indexOf(entry), 1);
    const place = this.#places.get(entry.key);
    if (place !== undefined) this.#means.store.keep(place, undefined);
    this.#places.delete(entry.key);
    const waiting = this.#waiting.get(entry.key);
    this.#waiting.delete(entry.key);
    const version = settled.kind === "done" ? (settled.answer as { version?: number } | undefined)?.version : undefined;
    if (version !== undefined) queue.lately.push({ entry, version });
    this.#tell();
    if (waiting) for (const done of waiting) done(settled);
    else this.#means.ended(entry, settled);
  }

  /** Says which version of a round is on the screen: what was done by then is seen there. */
  seen(round: number, version: number): void {
    const queue = this.#queue(round);
    const still = queue.lately.filter((done) => done.version > version);
    if (still.length === queue.lately.length) return;
    queue.lately = still;
    this.#tell();
  }

  #put(entry: Entry, changes: Partial<Entry>): void {
    const before = entry.key;
    Object.assign(entry, changes);
    if (entry.key !== before) {
      const [place, waiting] = [this.#places.get(before), this.#waiting.get(before)];
      this.#places.delete(before);
      this.#waiting.delete(before);
      if (place !== undefined) this.#places.set(entry.key, place);
      if (waiting) this.#waiting.set(entry.key, waiting);
    }
    this.#keep(entry);
    this.#tell();
  }

  #keep(entry: Entry): void {
    const place = this.#places.get(entry.key) ?? `${UNSENT}${entry.round}/${Date.now()}-${++this.#last}`;
    this.#places.set(entry.key, place);
    this.#means.store.keep(place, { ...entry });
  }

  #tell(): void {
    this.#shown = {};
    for (const listener of this.#listeners) listener();
  }
}

/** The same with some of what it says otherwise. */
const but = (order: Order, changed: object): Order =>
  Object.keys(changed).length ? { ...order, init: { ...order.init, body: { ...order.init.body, ...changed } } } : order;

export type Shown = {
  /** What is on its way, or waits for the program. */
  waiting: Entry[];
  /** What the clerk has to choose about first. */
  asked: Entry[];
  /** Why it waits; "" while the program answers. */
  away: string;
  /** What was done a moment ago, until it is seen on the screen. */
  lately: Entry[];
  /** What was written in cells. */
  cells: InCell[];
};

/** What was set of the round and is not on the screen yet, by its name; undefined for nothing. The newest counts. */
export function settingIn({ waiting, asked, lately }: Shown, name: string): unknown {
  const set = [...lately, ...asked, ...waiting].filter(({ order }) => order.method === "patch" && order.path === "/api/rounds/{round_id}" && name in (order.init.body ?? {}));
  return (set.at(-1)?.order.init.body as Record<string, unknown> | undefined)?.[name];
}

const NOTHING: Shown = { waiting: [], asked: [], away: "", lately: [], cells: [] };

function shownOf(queue: Queue | undefined): Shown {
  if (!queue?.entries.length && !queue?.lately.length) return NOTHING;
  const { entries, away, lately } = queue;
  return {
    waiting: entries.filter((entry) => !entry.conflict),
    asked: entries.filter((entry) => entry.conflict),
    away,
    lately: lately.map(({ entry }) => entry),
    cells: entries.flatMap(({ cell }) => (cell ? [cell] : [])),
  };
}
