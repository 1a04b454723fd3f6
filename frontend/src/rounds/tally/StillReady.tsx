import { Button } from "../../ui/Button.tsx";
import { counted, figure } from "../../ui/format.ts";

type Props = {
  ready: number;
  /** How many of the texts that are ready are chosen now; null where no row is. */
  chosen: number | null;
  paused: boolean;
  onShow: () => void;
  onChosen: () => void;
  onAll: () => void;
  onKeepBack: () => void;
};

/** The texts that were not chosen at first, and the ways to send them too. */
export function StillReady({ ready, chosen, paused, onShow, onChosen, onAll, onKeepBack }: Props) {
  return (
    <section aria-label="Still ready" data-region="still ready" className="rounded-[3px] border border-rule-strong bg-leaf px-3 py-2">
      <h2 className="label">
        <button type="button" className="hover:underline" onClick={onShow}>
          {figure(ready)} still ready
        </button>
      </h2>
      <p className="mt-1 text-ink-2">
        {counted(ready, "text was", "texts were")} not among those chosen to go. {ready === 1 ? "It is" : "They are"} locked as {ready === 1 ? "it" : "they"} stood
        when sending began. To change them, leave them out here, save the marked sheet and bring it in again: there those that were sent are left out.
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
          <Button onClick={onAll}>Send {ready === 1 ? "the other text" : `the other ${figure(ready)} texts`}</Button>
          <Button kind="link" onClick={onKeepBack}>
            Leave {ready === 1 ? "it" : "them"} out
          </Button>
        </div>
      )}
    </section>
  );
}
