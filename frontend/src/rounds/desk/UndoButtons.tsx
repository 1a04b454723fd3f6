import { Redo2, Undo2 } from "lucide-react";

type Props = { undo: string | null; redo: string | null; onUndo: () => void; onRedo: () => void };

/** Taking the last change back, whatever it was, and doing it again. */
export function UndoButtons({ undo, redo, onUndo, onRedo }: Props) {
  const kind = "rounded-[3px] p-1 text-ink-2 hover:bg-chosen hover:text-ink disabled:opacity-35 disabled:hover:bg-transparent";
  return (
    <div className="flex">
      <button type="button" className={kind} aria-label="Undo the last change" title={undo ? `Undo ${undo}` : "Nothing to undo"} disabled={!undo} onClick={onUndo}>
        <Undo2 size={17} aria-hidden />
      </button>
      <button type="button" className={kind} aria-label="Do the change again" title={redo ? `Do again: ${redo}` : "Nothing to do again"} disabled={!redo} onClick={onRedo}>
        <Redo2 size={17} aria-hidden />
      </button>
    </div>
  );
}
