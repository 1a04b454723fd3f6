import { Button } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { sentenceCase } from "../../ui/format.ts";
import type { NotHere } from "./useCommands.ts";

type Props = { asked: NotHere | null; onAll: (asked: NotHere) => void; onClose: () => void };

/** Undo takes back what was done in this window; what another one did is named, and taken back only when that is said. */
export function NotHereDialog({ asked, onAll, onClose }: Props) {
  if (!asked) return null;
  const undo = asked.which === "undo";
  return (
    <Dialog
      open
      onClose={onClose}
      title={undo ? "The last change was not made in this window" : "This was not taken back in this window"}
      about={`${sentenceCase(asked.what)}. ${undo ? "What you did here before it stays as it is until that is undone." : ""}`}
    >
      <div className="dialog-foot">
        <Button data-first onClick={onClose}>
          Leave it
        </Button>
        <Button
          onClick={() => {
            onClose();
            onAll(asked);
          }}
        >
          {undo ? "Undo it all the same" : "Do it again all the same"}
        </Button>
      </div>
    </Dialog>
  );
}
