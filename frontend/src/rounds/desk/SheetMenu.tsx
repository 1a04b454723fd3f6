import { Button } from "../../ui/Button.tsx";
import { Menu } from "../../ui/Menu.tsx";

/** What can be done to the sheet as a whole. */
export function SheetMenu({ onAddRow, onNewer, onTidy }: Record<"onAddRow" | "onNewer" | "onTidy", () => void>) {
  const items = [
    { label: "Tidy the numbers", onSelect: onTidy },
    { label: "Bring in a newer version", onSelect: onNewer },
    { label: "Add a row", onSelect: onAddRow },
  ];
  return <Menu trigger={<Button>Sheet</Button>} items={items} />;
}
