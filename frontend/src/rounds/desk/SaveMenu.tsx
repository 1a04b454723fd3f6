import { useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { Menu, type MenuItem } from "../../ui/Menu.tsx";

type Props = { roundId: number; started: boolean; onRemove: () => void };

/** Taking the round's files away: the marked sheet, and the set-up as a recipe. What never started can be removed. */
export function SaveMenu({ roundId, started, onRemove }: Props) {
  const go = useNavigate();
  const [removing, setRemoving] = useState(false);
  const file = (name: string) => `/api/rounds/${roundId}/${name}`;
  const sheet = started ? "Marked sheet" : "Sheet with marks so far";
  const items: MenuItem[] = [
    { label: `${sheet} as XLSX`, file: file("marked-sheet.xlsx") },
    { label: `${sheet} as CSV`, file: file("marked-sheet.csv") },
    { label: "Set-up as a recipe (TOML)", file: file("recipe.toml") },
    { label: "See what was changed", onSelect: () => void go(`/rounds/${roundId}/changes`) },
    ...(started ? [] : [{ label: "Remove this round", grave: true, onSelect: () => setRemoving(true) }]),
  ];
  return (
    <>
    <Menu trigger={<Button>{started ? "Save the marked sheet" : "Save or remove"}</Button>} items={items} />
    <Dialog
      open={removing}
      onClose={() => setRemoving(false)}
      title="Remove this round?"
      about="Its rows and its wording are removed, and this cannot be undone. Nothing of it was ever sent."
    >
      <div className="mt-5 flex justify-end gap-3">
        <Button onClick={() => setRemoving(false)} className="text-[15px]">
          Keep it
        </Button>
        <Button kind="act" onClick={onRemove}>
          Remove the round
        </Button>
      </div>
    </Dialog>
    </>
  );
}
