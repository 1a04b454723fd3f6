import type { Forecast } from "../../api/client.ts";

type Leaving = Pick<Forecast, "begins" | "last" | "lasting">;

/** When the first and the last text leave, in a sentence. */
export function leavingSaid({ begins, last, lasting }: Leaving): string {
  if (last === null) return "None of them would ever leave by this pace.";
  return begins ? `From ${begins}; the last one leaves ${last}.` : `Starting now, the last one leaves at about ${last}, ${lasting} from now.`;
}
