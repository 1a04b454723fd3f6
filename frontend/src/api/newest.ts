/** Late and crossing answers: of two answers about one thing the newer one stands. */

type Versioned = { version: number };
type Entered = Versioned & { entry: number };

/** Of what is kept and what has come, the newer one, whichever came first. */
export const newest = <T extends Versioned>(kept: T | undefined, came: T): T =>
  kept && kept.version > came.version ? kept : came;

/** The same for a tally, which also grows with each entry of the ledger. */
export const newestTally = <T extends Entered>(kept: T | undefined, came: T): T =>
  kept && (kept.version > came.version || (kept.version === came.version && kept.entry > came.entry)) ? kept : came;
