import { useState } from "react";
import type { Tally } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { counted, figure } from "../../ui/format.ts";

/** Ends a round: asks first, and says what will not go. */
export function StopButton({ tally, onStop }: { tally: Tally; onStop: () => void }) {
  const [asking, setAsking] = useState(false);
  const n = (mark: string) => tally.texts.find((c) => c.mark === mark)?.rows ?? 0;
  const [sent, toGo, going] = [n("Sent"), n("To go"), n("Going")];
  return (
    <>
      <Button onClick={() => setAsking(true)}>Stop the round</Button>
      {asking && (
        <Dialog
          open
          onClose={() => setAsking(false)}
          title={`Stop with ${counted(toGo, "text")} not sent?`}
          about={`${figure(sent)} went already and stay sent. ${going ? "The one that is being handed over still gets its mark. " : ""}${toGo === 1 ? "The one that did not go is" : `The ${figure(toGo)} that did not go are`} left out, and can be sent later, as they are locked now. What went cannot be taken back.`}
        >
          <div className="dialog-foot">
            <Button data-first onClick={() => setAsking(false)} className="txt-15">
              Keep sending
            </Button>
            <Button
              kind="act"
              onClick={() => {
                setAsking(false);
                onStop();
              }}
            >
              Stop the round now
            </Button>
          </div>
        </Dialog>
      )}
    </>
  );
}
