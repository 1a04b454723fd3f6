import { type ComponentProps, useState } from "react";
import type { Aggregate, Combine, Desk } from "../../api/client.ts";
import { useCatalogue } from "../../api/catalogue.ts";
import { Button } from "../../ui/Button.tsx";
import { counted } from "../../ui/format.ts";
import { Paper } from "./Paper.tsx";
import { Together } from "./Together.tsx";
import { isComputed } from "../columns.ts";

type Props = { desk: Desk; onSet: (combine: Combine | null) => void; onAskAgain: () => void; onClose: () => void } & Pick<
  ComponentProps<typeof Together>,
  "onTogether" | "onCell"
>;

/** Rows of one person become one text: by which column they belong together, and what becomes of each column. */
export default function CombinePanel({ desk, onSet, onTogether, onCell, onAskAgain, onClose }: Props) {
  // What was chosen counts at once: the next choice may come before the program has answered the last one.
  const [combine, setCombine] = useState<Required<Combine> | null>(desk.combine && { by: desk.combine.by, columns: desk.combine.columns });
  const put = (next: Required<Combine> | null) => {
    setCombine(next);
    onSet(next);
  };
  const { aggregates } = useCatalogue();
  const told = desk.combine;
  const mobile = desk.columns.find((c) => c.role === "mobile number")?.name ?? desk.columns[0]?.name ?? "";
  const [all, setAll] = useState(false);
  // What the text says comes first; the other columns matter only to formulas.
  const shown = desk.columns.filter((c) => all || c.used || combine?.columns[c.name]);
  const choose = (name: string, how: string) => {
    if (!combine) return;
    const others = Object.entries(combine.columns).filter(([n]) => n !== name);
    put({ by: combine.by, columns: Object.fromEntries(how ? [...others, [name, how as Aggregate]] : others) });
  };
  return (
    <Paper label="Combine rows" title="Combine rows of one person" onClose={onClose}>
        {!combine ? (
          <>
            <p className="text-ink-2">
              Rows with the same number become one text. The rows stay, and each of them is marked with what becomes of it.
            </p>
            <Button data-first onClick={() => put({ by: mobile, columns: {} })}>Combine rows with the same {mobile}</Button>
          </>
        ) : (
          <>
            <div>
              <label className="label block" htmlFor="combine-by">
                Rows belong together when they have the same
              </label>
              <select
                id="combine-by"
                data-first
                value={combine.by}
                onChange={(e) => put({ by: e.target.value, columns: combine.columns })}
                className="mt-0.5 w-full rounded-[3px] border border-rule-strong bg-leaf px-1.5 py-1"
              >
                {desk.columns.map((c) => (
                  <option key={c.name}>{c.name}</option>
                ))}
              </select>
            </div>
            <p role="status" className={told?.problem ? "text-failed" : ""}>
              {told?.problem ??
                (told?.texts
                  ? `${counted(told.rows, "row")} become ${counted(told.texts, "text")}.`
                  : desk.together.length
                    ? "No text is of several rows yet."
                    : "No two rows belong together.")}
            </p>
            <Together desk={desk} onTogether={onTogether} onCell={onCell} />
            <table className="w-full">
              <thead>
                <tr className="label text-left">
                  <th className="font-semibold">Column</th>
                  <th className="font-semibold">In the text</th>
                </tr>
              </thead>
              <tbody>
                {shown.map((c) => {
                  const how = combine.columns[c.name] ?? "";
                  return (
                    <tr key={c.name} className="border-b border-rule last:border-0">
                      <td className={`max-w-36 truncate py-0.5 pr-2 ${c.used ? "font-semibold" : "text-ink-2"}`} title={c.name}>
                        {c.name}
                      </td>
                      <td className="py-0.5">
                        <select
                          aria-label={`${c.name} in the text`}
                          value={how}
                          title={aggregates.find((each) => each.aggregate === how)?.doc}
                          onChange={(e) => choose(c.name, e.target.value)}
                          className="w-full rounded-[3px] border border-rule-strong bg-leaf px-1 py-0.5"
                        >
                          <option value="">{isComputed(c) ? "worked out from the combined row" : "must match, or the row is held"}</option>
                          {aggregates.map(({ aggregate, doc }) => (
                            <option key={aggregate} value={aggregate}>
                              {aggregate}: {doc}
                            </option>
                          ))}
                        </select>
                      </td>
                    </tr>
                  );
                })}
              </tbody>
            </table>
            {desk.belong_together > 0 && (
              <p className="flex items-baseline gap-2 text-ink-2">
                <span className="min-w-0 flex-1">
                  Of {counted(desk.belong_together, "group")} with different names you said that they belong together.
                </span>
                <Button kind="quiet" onClick={onAskAgain}>
                  Ask again
                </Button>
              </p>
            )}
            <div className="flex items-center gap-2">
              <Button onClick={() => put(null)}>Do not combine</Button>
              {!all && (
                <Button kind="quiet" onClick={() => setAll(true)}>
                  All columns
                </Button>
              )}
            </div>
          </>
        )}
    </Paper>
  );
}
