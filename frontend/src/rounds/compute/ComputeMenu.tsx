import { DropdownMenu } from "radix-ui";
import { Button } from "../../ui/Button.tsx";

/** What takes the wording's place while it is open. */
export type Panel = { kind: "formula" | "link"; was: string | null } | { kind: "tables" } | { kind: "rules" } | { kind: "combine" };

export const PANELS: { label: string; about: string; panel: Panel }[] = [
  { label: "Compute a column", about: "an amount, days, a date or a text, by a formula", panel: { kind: "formula", was: null } },
  { label: "Make a link", about: "an address with columns in it", panel: { kind: "link", was: null } },
  { label: "Tables", about: "a tariff by class, a list of holidays", panel: { kind: "tables" } },
  { label: "Combine rows of one person", about: "one text for all their berths", panel: { kind: "combine" } },
  { label: "Leave rows out by a rule", about: "such as: nothing to pay", panel: { kind: "rules" } },
];

/** All that can be worked out from the sheet's columns. */
export function ComputeMenu({ onOpen }: { onOpen: (panel: Panel) => void }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <Button className="px-2.5! py-1!">Compute</Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={6}
          className="z-50 rounded-[4px] border border-rule-strong bg-leaf py-1 shadow-lifted"
        >
          {PANELS.map(({ label, about, panel }) => (
            <DropdownMenu.Item
              key={label}
              onSelect={() => onOpen(panel)}
              className="cursor-pointer px-4 py-1 outline-none data-highlighted:bg-chosen"
            >
              <span className="text-[15px]">{label}</span>
              <span className="block text-[13px] text-ink-2">{about}</span>
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
