import { lazy, Suspense, useLayoutEffect } from "react";
import { useNavigate } from "react-router";
import type { Desk, PasteIn } from "../../api/client.ts";
import { isPassing } from "../../ui/focus.ts";
import { counted } from "../../ui/format.ts";
import { holdKeys } from "../../ui/held.ts";
import { useNotices } from "../../ui/notices.tsx";
import type { Commands } from "./useCommands.ts";

const SendDialog = lazy(() => import("../dock/SendDialog.tsx"));
const NumbersDialog = lazy(() => import("../numbers/NumbersDialog.tsx"));
const PasteDialog = lazy(() => import("./PasteDialog.tsx"));
const NewerDialog = lazy(() => import("./NewerDialog.tsx"));

export type Opened =
  | { kind: "numbers" }
  | { kind: "newer"; file?: File }
  /** `rows` are those that are chosen; null for all. */
  | { kind: "send"; rows: number[] | null }
  | { kind: "paste"; body: PasteIn };

type Props = { opened: Opened | null; desk: Desk; commands: Commands; onRow: (row: number) => void; onNewer: () => void; onClose: () => void };

/** The one dialog that lies over the desk, if any; it is loaded when it is first opened. */
export const OpenDialog = (props: Props) => (
  <Suspense fallback={<Coming />}>
    <Dialog {...props} />
  </Suspense>
);

function Coming() {
  useLayoutEffect(() => holdKeys(isPassing), []);
  return null;
}

function Dialog({ opened, desk, commands, onRow, onNewer, onClose }: Props) {
  const notices = useNotices();
  const go = useNavigate();
  if (opened?.kind === "numbers")
    return (
      <NumbersDialog
        desk={desk}
        onDesk={commands.show}
        onMend={commands.mend}
        onRow={(row) => {
          onClose();
          onRow(row);
        }}
        onClose={onClose}
      />
    );
  if (opened?.kind === "paste") return <PasteDialog desk={desk} body={opened.body} onPaste={commands.paste} onClose={onClose} />;
  if (opened?.kind === "newer")
    return (
      <NewerDialog
        desk={desk}
        dropped={opened.file}
        onClose={onClose}
        onTaken={(found) => {
          onClose();
          onNewer();
          commands.show(found);
          notices.done(`The newer version is taken: ${counted(found.rows, "row")}.`);
        }}
      />
    );
  if (opened?.kind === "send")
    return (
      <SendDialog
        roundId={desk.id}
        rows={opened.rows}
        onClose={onClose}
        onRead={() => void go(`/rounds/${desk.id}/look`)}
        onStarted={(found) => {
          onClose();
          commands.seen(found);
        }}
      />
    );
  return null;
}
