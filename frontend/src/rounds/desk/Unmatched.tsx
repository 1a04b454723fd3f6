import type { Desk } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";

type Props = { desk: Desk; onMatch: (name: string, column: string) => void; onForget: (name: string) => void };

/** The columns that the set-up speaks of and this sheet calls otherwise, to be matched by hand or taken out. */
export function Unmatched({ desk, onMatch, onForget }: Props) {
  if (!desk.unmatched.length) return null;
  return (
    <section aria-label="Columns to match" className="rounded-[3px] border border-held bg-leaf px-3 py-2">
      <h2 className="label">Columns that are not in this sheet</h2>
      {desk.unmatched.map(({ name, uses, goes }) => (
        <div key={name} className="mt-1.5">
          <div className="flex items-center gap-2">
            <span className="min-w-0 flex-1 truncate font-semibold" title={name}>
              {name}
            </span>
            <select
              aria-label={`${name} is here`}
              value=""
              onChange={(e) => onMatch(name, e.target.value)}
              className="w-52 rounded-[3px] border border-rule-strong bg-leaf px-1.5 py-0.5"
            >
              <option value="">which column is it?</option>
              {desk.columns.map((c) => (
                <option key={c.name}>{c.name}</option>
              ))}
            </select>
          </div>
          <p className="flex items-baseline justify-between gap-2 txt-13 text-ink-2">
            <span>{uses.length ? `used by ${uses.join(", ")}` : "only its settings are left"}</span>
            {goes && (
              <Button kind="link" onClick={() => onForget(name)}>
                Do without it
              </Button>
            )}
          </p>
        </div>
      ))}
    </section>
  );
}
