import { useMemo, useState } from "react";
import { useNavigate } from "react-router";
import { useActions, type Action } from "../../ui/actions.tsx";
import { Button } from "../../ui/Button.tsx";
import { Menu, type MenuItem } from "../../ui/Menu.tsx";

type Props = { roundId: number; started: boolean; onRemove: () => void };

/** Taking the round's files away: the marked sheet, and its settings. What never started can be removed, and brought back. */
export function SaveMenu({ roundId, started, onRemove }: Props) {
  const go = useNavigate();
  const [open, setOpen] = useState(false);
  const file = (name: string) => `/api/rounds/${roundId}/${name}`;
  const sheet = started ? "Marked sheet" : "Sheet with marks so far";
  const items: MenuItem[] = [
    { label: `${sheet} as XLSX`, file: file("marked-sheet.xlsx") },
    { label: `${sheet} as CSV`, file: file("marked-sheet.csv") },
    { label: "Settings file, to use again next month", file: file("recipe.toml") },
    { label: "See what was changed", onSelect: () => void go(`/rounds/${roundId}/changes`) },
    ...(started ? [] : [{ label: "Remove this round", grave: true, onSelect: onRemove }]),
  ];
  const actions = useMemo<Action[]>(
    () => [{ name: "save", label: started ? "Save the marked sheet" : "Save or remove", keys: ["Ctrl s"], perform: () => setOpen(true) }],
    [started],
  );
  useActions("save", actions);
  return (
    <Menu
      open={open}
      onOpenChange={setOpen}
      trigger={<Button>{started ? "Save the marked sheet" : "Save or remove"}</Button>}
      items={items}
    />
  );
}
