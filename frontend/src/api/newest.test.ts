import { expect, test } from "vitest";
import { newest, newestTally } from "./newest.ts";

const desk = (version: number, title = "") => ({ version, title });

test.each([
  [undefined, desk(1), desk(1)],
  [desk(1), desk(2), desk(2)],
  [desk(2), desk(1), desk(2)],
  // Of two with one version the later one: it was counted later.
  [desk(2, "a"), desk(2, "b"), desk(2, "b")],
])("of %o and %o stands %o", (kept, came, stands) => expect(newest(kept, came)).toEqual(stands));

const tally = (version: number, entry: number) => ({ version, entry });

test.each([
  [tally(1, 5), tally(1, 6), tally(1, 6)],
  [tally(1, 6), tally(1, 5), tally(1, 6)],
  [tally(2, 5), tally(1, 9), tally(2, 5)],
  [tally(1, 9), tally(2, 5), tally(2, 5)],
])("of the tallies %o and %o stands %o", (kept, came, stands) => expect(newestTally(kept, came)).toEqual(stands));
