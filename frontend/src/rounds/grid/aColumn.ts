import type { ColumnOut } from "../../api/client.ts";

/** A column of a sheet for tests, recognised for what it is and with nothing set. */
export const aColumn = (name: string, role: ColumnOut["role"]): ColumnOut => ({
  name,
  role,
  recognised: role,
  recognised_by: "",
  fallback: null,
  format: null,
  formula: null,
  template: null,
  problem: null,
  reading: null,
  read_as: null,
  evidence: "",
  question: null,
  awaited: false,
  used: false,
  doc: "",
  example: "",
  characters: 9,
  to_the_right: role === "money" || role === "number",
  blanks: 0,
});
