import { Link } from "react-router";
import type { Desk, Estimate, Forecast, Pace } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { counted, figure } from "../../ui/format.ts";
import { useProgress } from "../desk/useProgress.ts";
import type { Choosing } from "../grid/useChosen.ts";
import { leavingSaid } from "./leaving.ts";
import { PaceSentence } from "./PaceSentence.tsx";

type Props = {
  desk: Desk;
  /** Whether the pace is not kept by the program yet. */
  unkept: boolean;
  /** When the texts leave; `stale` while that is of an earlier pace. */
  forecast: Forecast | undefined;
  stale: boolean;
  /** The row that is shown on the slip. */
  row: number;
  estimate: Estimate;
  /** The rows that are chosen; without any, all go. */
  choosing: Choosing;
  /** When it was rehearsed, and what came of it; "" where it was not. */
  rehearsed: string;
  /** Whether it changed since. */
  changed: boolean;
  counting: boolean;
  /** What has to be decided first; "" when nothing has. */
  first: string;
  onPace: (pace: Pace) => void;
  onSend: () => void;
  onWeight: () => void;
};

/** The pace, what it adds up to, and the one button that says exactly what it will do. */
export function Dock({ desk, unkept, forecast, stale, row, estimate, choosing, rehearsed, changed, counting, first, onPace, onSend, onWeight }: Props) {
  const percent = useProgress(desk.id, counting);
  const some = choosing.rows.length > 0;
  const going = some ? choosing.sum : estimate;
  const leaving = some ? choosing.sum?.ahead : forecast;
  const texts = going?.texts ?? 0;
  // A button that cannot be pressed keeps its place among the keys: it says why.
  const ready = texts > 0 && !counting && first === "";
  return (
    <footer className="dock">
      <div className="min-w-0 flex-1" data-region="pace">
        <PaceSentence desk={desk} forecast={forecast} stale={stale} row={row} onChange={onPace} />
        <p className="mt-0.5 text-ink-2">
          {unkept && <span className="not-kept mr-2">not kept yet</span>}
          {!going ? (
            "Adding up the chosen rows…"
          ) : texts === 0 ? (
            some ? "None of the chosen rows is ready." : "No row is ready: see what holds them under Worth a look."
          ) : (
            <>
              {some ? `${figure(texts)} chosen of ${counted(estimate.texts, "text")}, in ` : `${counted(texts, "text")} in `}
              <button type="button" title="What the texts weigh" className="underline decoration-pencil-stroke underline-offset-3 hover:text-ink" onClick={onWeight}>
                {counted(going.parts, "part")}
              </button>
              {going.cost ? `, about ${going.cost}` : ""}. {leaving && leavingSaid(leaving)}
            </>
          )}
        </p>
      </div>
      <div data-region="dock" className="ml-auto flex items-center gap-4">
        {some ? (
          <Button kind="link" onClick={choosing.none}>
            All {figure(estimate.texts)} instead
          </Button>
        ) : (
          <Link to={`/rounds/${desk.id}/rehearsal`} title={rehearsed} className="font-semibold whitespace-nowrap underline decoration-pencil-stroke underline-offset-3 hover:decoration-ink">
            {rehearsed ? (changed ? "Rehearse again" : "Rehearsed") : "Rehearse"}
          </Link>
        )}
        <Button kind="act" data-first aria-disabled={!ready} onClick={() => ready && onSend()}>
          {first || (counting ? `Counting…${percent}` : `${forecast?.scheduled ? "Schedule" : "Send"} ${counted(texts, some ? "chosen text" : "text")}`)}
        </Button>
      </div>
    </footer>
  );
}
