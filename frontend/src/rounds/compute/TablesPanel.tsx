import type { Desk } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { useDraft } from "../../state/useDraft.ts";
import { Line, Paper } from "./Paper.tsx";

type Tables = Desk["lookups"];
type Props = { desk: Desk; onSet: (tables: Tables) => void; onClose: () => void };
type Line = { key: string; value: string };
type Draft = { name: string; was: string | null; lines: Line[] };

const BLANK: Line = { key: "", value: "" };

const linesOf = (table: Tables[string] | undefined): Line[] => [
  ...Object.entries(table ?? {}).map(([key, value]) => ({ key, value })),
  BLANK,
];

/** The small tables kept with the round, such as a tariff by class; two columns can be pasted from a spreadsheet. */
export default function TablesPanel({ desk, onSet, onClose }: Props) {
  const names = Object.keys(desk.lookups);
  const first = names[0] ?? null;
  const [{ name, was, lines }, setDraft, forget] = useDraft<Draft>(`table/${desk.uid}`, { name: first ?? "Tariff", was: first, lines: linesOf(desk.lookups[first ?? ""]) });
  const setName = (typed: string) => setDraft((now) => ({ ...now, name: typed }));
  const setLines = (now: Line[]) => setDraft((before) => ({ ...before, lines: now }));
  const show = (other: string | null) => setDraft({ was: other, name: other ?? "", lines: linesOf(other ? desk.lookups[other] : undefined) });
  const change = (i: number, part: Partial<Line>) => {
    const now = lines.map((line, j) => (i === j ? { ...line, ...part } : line));
    setLines(i === lines.length - 1 ? [...now, BLANK] : now);
  };
  const paste = (i: number, text: string): boolean => {
    const found = text.split(/\r?\n/).filter((line) => line.includes("\t"));
    if (!found.length) return false;
    const pasted = found.map((line) => {
      const [key = "", value = ""] = line.split("\t");
      return { key: key.trim(), value: value.trim() };
    });
    setLines([...lines.slice(0, i), ...pasted, BLANK]);
    return true;
  };
  const keep = () => {
    const filled = lines.filter((line) => line.key.trim());
    const table = Object.fromEntries(filled.map((line) => [line.key.trim(), line.value.trim()]));
    const others = Object.entries(desk.lookups).filter(([n]) => n !== was && n !== name.trim());
    onSet(Object.fromEntries([...others, [name.trim(), table]]));
    setDraft((now) => ({ ...now, was: name.trim() }));
    forget();
  };
  const keys = lines.map((line) => line.key.trim().toLowerCase()).filter(Boolean);
  const twice = keys.find((key, i) => keys.indexOf(key) !== i);
  return (
    <Paper label="Tables" title="Tables kept with the round" onClose={onClose}>
      <form
        className="space-y-2"
        onSubmit={(e) => {
          e.preventDefault();
          if (name.trim() && !twice) keep();
        }}
      >
        {names.length > 0 && (
          <div className="flex flex-wrap gap-1">
            {names.map((n) => (
              <button
                key={n}
                type="button"
                aria-pressed={n === was}
                onClick={() => show(n)}
                className={`rounded-[3px] px-2 py-0.5 ${n === was ? "bg-ink text-leaf" : "text-ink-2 hover:bg-chosen"}`}
              >
                {n}
              </button>
            ))}
            <button type="button" onClick={() => show(null)} className="px-2 py-0.5 text-ink-2 hover:text-ink">
              Another table
            </button>
          </div>
        )}
        <Line id="table-name" label="Name" value={name} most={100} first onChange={setName} />
        <table className="w-full">
          <thead>
            <tr className="label text-left">
              <th className="font-semibold">Key</th>
              <th className="font-semibold">Value</th>
            </tr>
          </thead>
          <tbody>
            {lines.map((line, i) => (
              <tr key={i}>
                {(["key", "value"] as const).map((part) => (
                  <td key={part} className="w-1/2 pt-1 pr-1 last:pr-0">
                    <input
                      aria-label={`${part === "key" ? "Key" : "Value"} of line ${i + 1}`}
                      value={line[part]}
                      placeholder={i === 0 && lines.length === 1 ? (part === "key" ? "A" : "14.00") : ""}
                      onChange={(e) => change(i, { [part]: e.target.value })}
                      onPaste={(e) => {
                        if (paste(i, e.clipboardData.getData("text"))) e.preventDefault();
                      }}
                      className={`w-full rounded-[3px] border border-rule-strong bg-leaf px-2 py-0.5 placeholder:text-pencil ${part === "value" ? "text-right" : ""}`}
                    />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
        {twice && (
          <p role="alert" className="text-failed">
            The key “{twice}” stands twice. Keep one of them.
          </p>
        )}
        <p className="txt-13 text-ink-2">
          In a formula: FROMTABLE("{name.trim() || "Tariff"}"; {"{Class}"}). Two columns can be pasted from a spreadsheet.
        </p>
        <div className="panel-foot">
          <Button type="submit" disabled={!name.trim() || !!twice}>
            Keep the table
          </Button>
          {was && (
            <Button
              kind="quiet"
              onClick={() => {
                onSet(Object.fromEntries(Object.entries(desk.lookups).filter(([n]) => n !== was)));
                show(null);
              }}
            >
              Remove table
            </Button>
          )}
        </div>
      </form>
    </Paper>
  );
}
