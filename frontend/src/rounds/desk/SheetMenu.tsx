import { Button } from "../../ui/Button.tsx";
import { Menu } from "../../ui/Menu.tsx";

/** What can be done to the sheet as a whole. */
export function SheetMenu({ onAddRow, onNewer, onCheckNumbers }: Record<"onAddRow" | "onNewer" | "onCheckNumbers", () => void>) {
  const items = [
    { label: "Check the numbers", onSelect: onCheckNumbers },
    { label: "Bring in a newer version", onSelect: onNewer },
    { label: "Add a row", onSelect: onAddRow },
  ];
  return <Menu trigger={<Button>Sheet</Button>} items={items} />;
}
