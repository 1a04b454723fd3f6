import type { ColumnOut } from "../api/client.ts";

/** Whether a column is worked out by a formula or a link's template. */
export const isComputed = (column: ColumnOut): boolean => column.formula !== null || column.template !== null;
