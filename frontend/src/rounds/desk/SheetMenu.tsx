import { DropdownMenu } from "radix-ui";
import { Button } from "../../ui/Button.tsx";

/** What can be done to the sheet as a whole. */
export function SheetMenu({ onAddRow, onNewer, onTidy }: Record<"onAddRow" | "onNewer" | "onTidy", () => void>) {
  const item = "cursor-pointer px-4 py-1.5 text-[15px] outline-none data-highlighted:bg-chosen";
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <Button>Sheet</Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" sideOffset={6} className="z-50 rounded-[4px] border border-rule-strong bg-leaf py-1 shadow-lifted">
          <DropdownMenu.Item className={item} onSelect={onTidy}>
            Tidy the numbers
          </DropdownMenu.Item>
          <DropdownMenu.Item className={item} onSelect={onNewer}>
            Bring in a newer version
          </DropdownMenu.Item>
          <DropdownMenu.Item className={item} onSelect={onAddRow}>
            Add a row
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
