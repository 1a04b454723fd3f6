import { DropdownMenu } from "radix-ui";
import { useState } from "react";
import { Button } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";

type Props = { roundId: number; started: boolean; onRemove: () => void };

/** Taking the round's files away: the marked sheet, and the set-up as a recipe. What never started can be removed. */
export function SaveMenu({ roundId, started, onRemove }: Props) {
  const [removing, setRemoving] = useState(false);
  const items = [
    { label: `${started ? "Marked sheet" : "Sheet with marks so far"} as XLSX`, to: "marked-sheet.xlsx" },
    { label: `${started ? "Marked sheet" : "Sheet with marks so far"} as CSV`, to: "marked-sheet.csv" },
    { label: "Set-up as a recipe (TOML)", to: "recipe.toml" },
  ];
  return (
    <>
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <Button>{started ? "Save the marked sheet" : "Save or remove"}</Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={6}
          className="z-50 rounded-[4px] border border-rule-strong bg-leaf py-1 shadow-lifted"
        >
          {items.map((item) => (
            <DropdownMenu.Item key={item.to} asChild>
              <a
                href={`/api/rounds/${roundId}/${item.to}`}
                download
                className="block px-4 py-1.5 text-[15px] outline-none data-highlighted:bg-chosen"
              >
                {item.label}
              </a>
            </DropdownMenu.Item>
          ))}
          {!started && (
            <DropdownMenu.Item
              onSelect={() => setRemoving(true)}
              className="cursor-pointer border-t border-rule px-4 py-1.5 text-[15px] text-failed outline-none data-highlighted:bg-chosen"
            >
              Remove this round
            </DropdownMenu.Item>
          )}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
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
