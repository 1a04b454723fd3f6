/** What the wording without a condition is called beside those that have one. */
export const REST = "main wording";
