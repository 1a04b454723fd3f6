import { counted, figure } from "../../ui/format.ts";

type Props = {
  chosen: number;
  /** How many rows the list shows. */
  shown: number;
  onAll: () => void;
  onNone: () => void;
};

/** How many rows are chosen for sending, and the ways to choose all that are shown, or none. */
export function ChosenLine({ chosen, shown, onAll, onNone }: Props) {
  return (
    <p className="flex gap-4 border-t border-rule-strong bg-chosen px-3 py-1.5">
      <span role="status">
        <strong className="font-semibold">{counted(chosen, "row")} chosen</strong> for sending
      </span>
      <button type="button" className="ml-auto text-ink-2 underline underline-offset-3 hover:text-ink" onClick={onAll}>
        Choose {shown === 1 ? "the one" : `all ${figure(shown)}`} shown
      </button>
      <button type="button" className="text-ink-2 underline underline-offset-3 hover:text-ink" onClick={onNone}>
        Choose none
      </button>
    </p>
  );
}
