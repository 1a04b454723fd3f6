import { useCatalogue } from "../../api/catalogue.ts";

type Props = { id: string; usual: string; value: string; onChange: (format: string) => void };

const HINTS: Record<string, string> = {
  money: "currency",
  number: "decimals",
  percent: "decimals",
  date: "medium",
  text: "upper…",
};

/** How a column's values are written: a word, and behind it what it is to be like. */
export function FormatField({ id, usual, value, onChange }: Props) {
  const { formats } = useCatalogue();
  const [kind = "", ...rest] = value.split(" ");
  const detail = rest.join(" ");
  const doc = formats.find((f) => f.kind === kind)?.doc;
  return (
    <div>
      <label className="label block" htmlFor={id}>
        Format
      </label>
      <div className="mt-0.5 flex gap-1.5">
        <select
          id={id}
          value={kind}
          onChange={(e) => onChange(e.target.value)}
          className="min-w-0 flex-1 rounded-[3px] border border-rule-strong bg-leaf px-1.5 py-1"
        >
          <option value="">{usual}</option>
          {formats.map((f) => (
            <option key={f.kind} value={f.kind}>
              {f.kind}
            </option>
          ))}
        </select>
        {kind && (
          <input
            aria-label="Format, in detail"
            value={detail}
            placeholder={HINTS[kind] ?? ""}
            title={doc}
            onChange={(e) => onChange(`${kind} ${e.target.value}`)}
            className="w-[55%] rounded-[3px] border border-rule-strong bg-leaf px-2 py-1 placeholder:text-pencil"
          />
        )}
      </div>
    </div>
  );
}
