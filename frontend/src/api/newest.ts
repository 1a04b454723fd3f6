/** Late and crossing answers: of two answers about one thing the newer one stands, and changes go one after the other. */

type Versioned = { version: number };
type Entered = Versioned & { entry: number };

/** Of what is kept and what has come, the newer one, whichever came first. */
export const newest = <T extends Versioned>(kept: T | undefined, came: T): T =>
  kept && kept.version > came.version ? kept : came;

/** The same for a tally, which also grows with each entry of the ledger. */
export const newestTally = <T extends Entered>(kept: T | undefined, came: T): T =>
  kept && (kept.version > came.version || (kept.version === came.version && kept.entry > came.entry)) ? kept : came;

/** Does things one after the other: none begins before the one before it is done, whether it went well or not. */
export class InTurn {
  #last: Promise<unknown> = Promise.resolve();

  do<T>(what: () => Promise<T>): Promise<T> {
    const mine = this.#last.then(what, what);
    this.#last = mine.catch(() => undefined);
    return mine;
  }
}
