import type { Estimate, Pace } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { counted, moment } from "../../ui/format.ts";
import { useProgress } from "../desk/useProgress.ts";
import { PaceSentence } from "./PaceSentence.tsx";

type Props = {
  roundId: number;
  pace: Pace;
  estimate: Estimate;
  counting: boolean;
  /** What has to be decided first; "" when nothing has. */
  first: string;
  onPace: (pace: Pace) => void;
  onSend: () => void;
  onWeight: () => void;
};

/** The pace, what it adds up to, and the one button that says exactly what it will do. */
export function Dock({ roundId, pace, estimate, counting, first, onPace, onSend, onWeight }: Props) {
  const percent = useProgress(roundId, counting);
  const { texts, parts, cost, lasting, last_leaves_at } = estimate;
  // A button that cannot be pressed keeps its place among the keys: it says why.
  const ready = texts > 0 && !counting && first === "";
  return (
    <footer className="dock">
      <div className="min-w-0 flex-1" data-region="pace">
        <PaceSentence pace={pace} onChange={onPace} />
        <p className="mt-0.5 text-ink-2">
          {texts === 0 ? (
            "No row is ready: see what holds them under Worth a look."
          ) : (
            <>
              {counted(texts, "text")} in{" "}
              <button type="button" title="What the texts weigh" className="underline decoration-pencil-stroke underline-offset-3 hover:text-ink" onClick={onWeight}>
                {counted(parts, "part")}
              </button>
              {cost ? `, about ${cost}` : ""}. Starting now, the last one leaves at about {moment(last_leaves_at)}, {lasting} from now.
            </>
          )}
        </p>
      </div>
      <div data-region="dock" className="ml-auto">
        <Button kind="act" aria-disabled={!ready} onClick={() => ready && onSend()}>
          {first || (counting ? `Counting…${percent}` : `Send ${counted(texts, "text")}`)}
        </Button>
      </div>
    </footer>
  );
}
