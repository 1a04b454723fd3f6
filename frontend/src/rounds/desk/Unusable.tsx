import type { Desk } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";

/** Parts of the kept set-up that cannot be used: nothing can be changed or sent until the clerk goes on without them. */
export function Unusable({ desk, onMend }: { desk: Desk; onMend: () => void }) {
  if (!desk.unusable.length) return null;
  return (
    <section role="alert" aria-label="What cannot be used" className="rounded-[3px] border border-failed bg-leaf px-3 py-2">
      <h2 className="label">Part of this round’s set-up cannot be used</h2>
      <p className="mt-1">
        {desk.unusable.join(", ")}: perhaps another version of the program kept it. Nothing is sent until you say that it
        goes on without that. Look at its rows again then.
      </p>
      <Button className="mt-1.5" onClick={onMend}>
        Go on without that
      </Button>
    </section>
  );
}
