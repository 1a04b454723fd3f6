/** What became of one request to keep the wording. */
export type Outcome<T> =
  | { kind: "kept"; answer: T }
  | { kind: "refused"; sentence: string }
  | { kind: "behind"; theirs: string }
  | { kind: "unreachable" };

type Listener<T> = {
  kept: (answer: T) => void;
  refused: (sentence: string) => void;
  behind: (theirs: string) => void;
  unreachable: () => void;
  /** Told what another page needs to go on with what is typed, at each change of it; null once all is kept. */
  remember: (left: Left | null) => void;
};

/** Words that are not kept yet, the wording they were written over, and those that may have come to the program since. */
export type Left = { text: string; was: string; sent: string[] };

/**
 * Keeps what is typed: one request at a time and always the newest words next, so that none overtakes another and none
 * is lost while the program cannot be reached. Each request says over which wording it was written; where another window
 * wrote another one meanwhile, nothing is sent until the clerk has chosen, and neither wording is lost.
 */
export class Keeper<T> {
  readonly #send: (wording: string, was: string) => Promise<Outcome<T>>;
  readonly #listener: Listener<T>;
  readonly #rest: () => Promise<void>;
  /** Sent without an answer: one of these may stand in the program by now, and is ours. */
  readonly #unanswered = new Set<string>();
  #known: string;
  #newest: string | null = null;
  #sending: string | null = null;
  #busy = false;
  #behind = false;
  #waiting: (() => void)[] = [];

  constructor(
    known: string,
    send: (wording: string, was: string) => Promise<Outcome<T>>,
    listener: Listener<T>,
    rest: () => Promise<void>,
  ) {
    this.#known = known;
    this.#send = send;
    this.#listener = listener;
    this.#rest = rest;
  }

  /** Goes on with what an earlier page left. */
  goOn({ text, was, sent }: Left): void {
    this.#known = was;
    for (const each of [text, ...sent]) this.#unanswered.add(each);
    void this.type(text);
  }

  async type(wording: string): Promise<void> {
    this.#newest = wording;
    if (this.#busy || this.#behind) {
      this.#remember();
      return;
    }
    this.#busy = true;
    while (this.#newest !== null && !this.#behind) {
      const sending: string = this.#newest;
      this.#newest = null;
      this.#sending = sending;
      this.#remember();
      const outcome = await this.#send(sending, this.#known);
      this.#sending = null;
      if (outcome.kind === "kept") {
        this.#known = sending;
        this.#unanswered.clear();
        this.#remember();
        this.#listener.kept(outcome.answer);
      } else if (outcome.kind === "refused") this.#listener.refused(outcome.sentence);
      else if (outcome.kind === "unreachable") {
        this.#unanswered.add(sending);
        this.#newest ??= sending;
        this.#listener.unreachable();
        await this.#rest();
      } else {
        this.#newest ??= sending;
        if (this.#unanswered.has(outcome.theirs)) this.#known = outcome.theirs;
        else {
          this.#behind = true;
          this.#listener.behind(outcome.theirs);
        }
      }
    }
    this.#busy = false;
    for (const done of this.#waiting.splice(0)) done();
  }

  /** Before the words are on their way: what is not written down when the plug is pulled is lost. */
  #remember(): void {
    const text = this.#newest ?? this.#sending;
    const sent = this.#sending === null ? [...this.#unanswered] : [...this.#unanswered, this.#sending];
    this.#listener.remember(text === null ? null : { text, was: this.#known, sent });
  }

  /** Resolves once all that was typed is kept, or waits for the clerk to choose between two wordings. */
  settled(): Promise<void> {
    return this.#busy ? new Promise((done) => this.#waiting.push(done)) : Promise.resolve();
  }

  /** Says what stands in the program now. True when this window has nothing of its own that is not kept yet. */
  seen(wording: string): boolean {
    if (this.#busy || this.#behind || this.#newest !== null) return false;
    this.#known = wording;
    return true;
  }

  /** The clerk chose the words of this window: they replace the other window's, which were shown. */
  keepMine(theirs: string): void {
    this.#known = theirs;
    this.#behind = false;
    if (this.#newest !== null) void this.type(this.#newest);
  }

  /** The clerk chose the other window's words. */
  takeTheirs(theirs: string): void {
    this.#known = theirs;
    this.#behind = false;
    this.#newest = null;
    this.#remember();
  }
}
