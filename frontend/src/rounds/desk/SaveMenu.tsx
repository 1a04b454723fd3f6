import { DropdownMenu } from "radix-ui";
import { Button } from "../../ui/Button.tsx";

/** Taking the round's files away: the marked sheet, and the set-up as a recipe. */
export function SaveMenu({ roundId, started }: { roundId: number; started: boolean }) {
  const items = [
    { label: `${started ? "Marked sheet" : "Sheet with marks so far"} as XLSX`, to: "marked-sheet.xlsx" },
    { label: `${started ? "Marked sheet" : "Sheet with marks so far"} as CSV`, to: "marked-sheet.csv" },
    { label: "Set-up as a recipe (TOML)", to: "recipe.toml" },
  ];
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <Button>{started ? "Save the marked sheet" : "Save"}</Button>
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
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
