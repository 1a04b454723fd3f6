import type { Pace } from "../../api/client.ts";
import { NumberValue } from "./Pressed.tsx";

/** "One text every 12 s, give or take 4 s". */
export function Gap({ pace, onChange }: { pace: Pace; onChange: (part: Partial<Pace>) => void }) {
  return (
    <>
      One text every <NumberValue label="Seconds between two texts" about="From 0.1 to 3,600 seconds." value={pace.every} least={0.1} unit="s" onChange={(every) => onChange({ every })} />, give or take{" "}
      <NumberValue
        label="Seconds give or take"
        about="Drawn anew for each text, so that the gaps are not as regular as a machine's. At most the gap itself."
        value={pace.give_or_take}
        least={0}
        unit="s"
        onChange={(give_or_take) => onChange({ give_or_take })}
      />
    </>
  );
}
