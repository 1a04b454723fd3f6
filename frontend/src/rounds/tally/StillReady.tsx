import { Button } from "../../ui/Button.tsx";
import { counted, figure } from "../../ui/format.ts";

type Props = {
  ready: number;
  /** Those of them that were mended since sending began. */
  mended: number;
  /** How many of the texts that are ready are chosen now; null where no row is. */
  chosen: number | null;
  paused: boolean;
  onShow: () => void;
  onChosen: () => void;
  onAll: () => void;
  onKeepBack: () => void;
};

/** The texts that were mended since, or not chosen at first, and the ways to send them too. */
export function StillReady({ ready, mended, chosen, paused, onShow, onChosen, onAll, onKeepBack }: Props) {
  return (
    <section aria-label="Still ready" data-region="still ready" className="rounded-[3px] border border-rule-strong bg-leaf px-3 py-2">
      <h2 className="label">
        <button type="button" className="hover:underline" onClick={onShow}>
          {figure(ready)} ready, not sent
        </button>
      </h2>
      <p className="mt-1 text-ink-2">
        {mended > 0 && `${counted(mended, "text was", "texts were")} mended since sending began. `}
        {ready > mended && `${counted(ready - mended, "text was", "texts were")} not among those chosen to go. `}
        {ready === 1 ? "It goes" : "They go"} once you have read {ready === 1 ? "it" : "them"} and said so.
      </p>
      {paused ? (
        <p className="mt-1 text-pencil">More can be sent once the round goes on.</p>
      ) : (
        <div className="mt-2 flex flex-wrap gap-2">
          {chosen !== null && (
            <Button data-first aria-disabled={chosen === 0} onClick={() => chosen > 0 && onChosen()}>
              {chosen === 0 ? "None of the chosen rows is ready" : `Send ${counted(chosen, "chosen text")}`}
            </Button>
          )}
          <Button data-first={chosen === null || undefined} onClick={onAll}>
            Send {ready === 1 ? "this text" : `these ${figure(ready)} texts`}
          </Button>
          <Button kind="link" onClick={onKeepBack}>
            Leave {ready === 1 ? "it" : "them"} out
          </Button>
        </div>
      )}
    </section>
  );
}
