import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, sentenceOf, told, type Desk, type PasteIn } from "../../api/client.ts";
import { Button, ConfirmButton } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { counted, figure } from "../../ui/format.ts";

type Props = { desk: Desk; body: PasteIn; onPaste: (body: PasteIn) => Promise<boolean>; onClose: () => void };

/** What a pasted block would cover, before it is taken; it can become new rows below the last one instead. */
export default function PasteDialog({ desk, body, onPaste, onClose }: Props) {
  const [below, setBelow] = useState(false);
  const [behind, setBehind] = useState(0);
  const wanted: PasteIn = { ...body, below };
  const seen = useQuery({
    queryKey: ["paste", desk.id, desk.version, wanted, behind],
    queryFn: () => told(api.POST("/api/rounds/{round_id}/cells/paste/glance", { params: { path: { round_id: desk.id } }, body: wanted })),
    gcTime: 0,
    staleTime: Infinity,
    retry: false,
  });
  const found = seen.data;
  const paste = async () => {
    if (!found) return;
    const again = await onPaste({ ...wanted, seen: found.version });
    if (again) setBehind(behind + 1);
    else onClose();
  };
  const rest = found ? found.covers - found.covered.length : 0;
  return (
    <Dialog open wide onClose={onClose} title="Paste over what is there?" about="It can be undone as one change.">
      <div role="group" aria-label="Where it goes" className="mt-4 flex flex-wrap gap-2">
        <Button aria-pressed={!below} onClick={() => setBelow(false)}>
          Over what is there
        </Button>
        <Button aria-pressed={below} onClick={() => setBelow(true)}>
          As new rows below the last
        </Button>
      </div>
      {seen.isError && (
        <p role="alert" className="mt-4 txt-15 text-failed">
          {sentenceOf(seen.error)}
        </p>
      )}
      {found && (
        <>
          <p role="status" className="mt-4 txt-15">
            {counted(found.cells, "cell")} under {found.columns.join(", ")}
            {found.added > 0 && `, ${counted(found.added, "new row")}`}
            {found.covers > 0 ? `; ${counted(found.covers, "cell")} with something else in ${found.covers === 1 ? "it" : "them"}.` : "; nothing is covered."}
            {found.named && " The first line has the names of the columns: it goes by them, and is not pasted itself."}
          </p>
          <div className="mt-3 max-h-[40vh] overflow-auto rounded-[3px] border border-rule-strong bg-leaf" tabIndex={0} role="group" aria-label="Cells">
            {found.covers > 0 ? (
              <table className="w-full">
                <thead className="label text-left">
                  <tr className="border-b border-rule-strong">
                    {["Row", "Column", "Now", "Pasted"].map((name, i) => (
                      <th key={name} className={`px-3 py-1 ${i === 0 || i === 2 ? "text-right" : ""}`}>
                        {name}
                      </th>
                    ))}
                  </tr>
                </thead>
                <tbody>
                  {found.covered.map((c) => (
                    <tr key={`${c.row}/${c.column}`} className="border-b border-rule last:border-0">
                      <td className="px-3 py-0.5 text-right text-pencil">{figure(c.row)}</td>
                      <td className="px-3 py-0.5 text-ink-2">{c.column}</td>
                      <td className="max-w-60 truncate px-3 py-0.5 text-right text-pencil line-through">{c.before}</td>
                      <td className="max-w-60 truncate px-3 py-0.5 font-semibold">{c.after || "blank"}</td>
                    </tr>
                  ))}
                </tbody>
              </table>
            ) : (
              <table className="w-full">
                <thead className="label text-left">
                  <tr className="border-b border-rule-strong">
                    {found.columns.map((name) => (
                      <th key={name} className="px-3 py-1">
                        {name}
                      </th>
                    ))}
                  </tr>
                </thead>
                <tbody>
                  {found.lines.map((line, i) => (
                    <tr key={i} className="border-b border-rule last:border-0">
                      {line.map((cell, j) => (
                        <td key={j} className="max-w-60 truncate px-3 py-0.5">
                          {cell || <span className="text-pencil">blank</span>}
                        </td>
                      ))}
                    </tr>
                  ))}
                </tbody>
              </table>
            )}
          </div>
          {rest > 0 && <p className="mt-1 text-ink-2">and {counted(rest, "cell")} more</p>}
        </>
      )}
      <div className="dialog-foot">
        <Button data-first className="txt-15" onClick={onClose}>
          Cancel
        </Button>
        <ConfirmButton disabled={!found} onClick={() => void paste()}>
          {found ? (below || !found.covers ? `Paste ${counted(found.cells, "cell")}` : `Paste over ${counted(found.covers, "cell")}`) : "Paste"}
        </ConfirmButton>
      </div>
    </Dialog>
  );
}
