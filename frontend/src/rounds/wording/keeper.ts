/** What became of one request to keep the wording. */
export type Outcome<T> = { kind: "kept"; answer: T } | { kind: "refused"; sentence: string } | { kind: "unreachable" };

type Listener<T> = {
  kept: (answer: T) => void;
  refused: (sentence: string) => void;
  unreachable: () => void;
};

/**
 * Keeps what is typed: one request at a time and always the newest words next, so that none overtakes another and none
 * is lost while the program cannot be reached.
 */
export class Keeper<T> {
  readonly #send: (wording: string) => Promise<Outcome<T>>;
  readonly #listener: Listener<T>;
  readonly #rest: () => Promise<void>;
  #newest: string | null = null;
  #busy = false;

  constructor(send: (wording: string) => Promise<Outcome<T>>, listener: Listener<T>, rest: () => Promise<void>) {
    this.#send = send;
    this.#listener = listener;
    this.#rest = rest;
  }

  async type(wording: string): Promise<void> {
    this.#newest = wording;
    if (this.#busy) return;
    this.#busy = true;
    while (this.#newest !== null) {
      const sending: string = this.#newest;
      this.#newest = null;
      const outcome = await this.#send(sending);
      if (outcome.kind === "kept") this.#listener.kept(outcome.answer);
      else if (outcome.kind === "refused") this.#listener.refused(outcome.sentence);
      else {
        this.#newest ??= sending;
        this.#listener.unreachable();
        await this.#rest();
      }
    }
    this.#busy = false;
  }
}
