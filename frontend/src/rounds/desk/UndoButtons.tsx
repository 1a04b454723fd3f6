import { useQuery } from "@tanstack/react-query";
import { History, Redo2, Undo2 } from "lucide-react";
import { useEffect, useMemo, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { api, told, type Desk } from "../../api/client.ts";
import { useActions, type Action } from "../../ui/actions.tsx";
import { clock } from "../../ui/format.ts";
import { Menu, type MenuItem } from "../../ui/Menu.tsx";

type Props = { desk: Desk; onUndo: () => void; onRedo: () => void; onWalk: (which: "undo" | "redo", upto: number) => void };

const LISTED = 25;

/** Taking the last change back, whatever it was, and doing it again; and the list of all, to go back to any of them. */
export function UndoButtons({ desk, onUndo, onRedo, onWalk }: Props) {
  const { undo, redo } = desk;
  const go = useNavigate();
  const [listed, setListed] = useState(false);
  const { data } = useQuery({
    queryKey: ["changes", desk.id, "list", desk.version],
    queryFn: ({ signal }) =>
      told(api.GET("/api/rounds/{round_id}/changes", { signal, params: { path: { round_id: desk.id }, query: { limit: LISTED } } })),
    enabled: listed,
  });
  const items: MenuItem[] = (data?.changes ?? []).flatMap((change) => {
    if (change.can_be === null) return [];
    const which = change.can_be === "undone" ? "undo" : "redo";
    const label = `${which === "undo" ? "Undo" : "Redo"}: ${change.what}`;
    return [{ key: String(change.id), label, about: clock(change.at), onSelect: () => onWalk(which, change.id) }];
  });
  const on = useRef({ onUndo, onRedo });
  useEffect(() => {
    on.current = { onUndo, onRedo };
  }, [onUndo, onRedo]);
  const actions = useMemo<Action[]>(
    () => [
      { name: "undo", label: undo ? `Undo: ${undo}` : "Undo", keys: ["Ctrl z"], enabled: !!undo, perform: () => on.current.onUndo() },
      { name: "redo", label: redo ? `Redo: ${redo}` : "Redo", keys: ["Ctrl y"], enabled: !!redo, perform: () => on.current.onRedo() },
      { name: "list of changes", label: "Undo or redo from the list of changes", keys: ["Alt z"], perform: () => setListed(true) },
      { name: "changes", label: "See what was changed", perform: () => void go(`/rounds/${desk.id}/changes`) },
    ],
    [undo, redo, desk.id, go],
  );
  useActions("undo", actions);
  const kind = "rounded-[3px] p-1 text-ink-2 hover:bg-chosen hover:text-ink disabled:opacity-35 disabled:hover:bg-transparent";
  return (
    <div className="flex">
      <button type="button" className={kind} aria-label="Undo the last change" title={undo ? `Undo ${undo}` : "Nothing to undo"} disabled={!undo} onClick={onUndo}>
        <Undo2 size="1.25em" aria-hidden />
      </button>
      <button type="button" className={kind} aria-label="Redo" title={redo ? `Redo ${redo}` : "Nothing to redo"} disabled={!redo} onClick={onRedo}>
        <Redo2 size="1.25em" aria-hidden />
      </button>
      <Menu
        wide
        open={listed}
        onOpenChange={setListed}
        empty="Nothing was changed yet that can be undone."
        items={[...items, ...(items.length ? [{ label: "See what was changed", onSelect: () => void go(`/rounds/${desk.id}/changes`) }] : [])]}
        trigger={
          <button type="button" className={kind} aria-label="List of changes" title="Undo or redo up to any change">
            <History size="1.25em" aria-hidden />
          </button>
        }
      />
    </div>
  );
}
