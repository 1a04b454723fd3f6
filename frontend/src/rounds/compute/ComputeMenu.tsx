import { Button } from "../../ui/Button.tsx";
import { Menu } from "../../ui/Menu.tsx";

/** What takes the wording's place while it is open. */
/** Where one column is computed: the one it is changed in, null for a new one. */
export type ColumnPanel = { kind: "formula" | "link"; was: string | null };

export type Panel =
  | ColumnPanel
  | { kind: "tables" }
  | { kind: "rules" }
  | { kind: "combine" }
  | { kind: "checks" }
  | { kind: "weight" }
  | { kind: "drawer"; of: string | null }
  | { kind: "wording"; was: string | null }
  | { kind: "stretch"; of: string | null; before: string; stretch: string };

export const PANELS: { label: string; about: string; key: string; panel: Panel }[] = [
  { label: "Compute a column", about: "an amount, days, a date or a text, by a formula", key: "Alt c", panel: { kind: "formula", was: null } },
  { label: "Make a link", about: "an address with columns in it", key: "Alt k", panel: { kind: "link", was: null } },
  { label: "Tables", about: "a tariff by class, a list of holidays", key: "Alt t", panel: { kind: "tables" } },
  { label: "Combine rows of one person", about: "one text for all their berths", key: "Alt o", panel: { kind: "combine" } },
  { label: "Leave rows out by a rule", about: "such as: nothing to pay", key: "Alt u", panel: { kind: "rules" } },
];

/** All that can be worked out from the sheet's columns. */
export function ComputeMenu({ onOpen }: { onOpen: (panel: Panel) => void }) {
  const items = PANELS.map(({ label, about, panel }) => ({ label, about, onSelect: () => onOpen(panel) }));
  return <Menu trigger={<Button className="px-2.5! py-1!">Compute</Button>} items={items} />;
}
