import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, sentenceOf, told, type Desk, type NumberBatch } from "../../api/client.ts";
import { codeOf, useCatalogue } from "../../api/catalogue.ts";
import { Button } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { counted, figure } from "../../ui/format.ts";

const PAGE = 100;

type Props = {
  desk: Desk;
  onDesk: (desk: Desk) => void;
  onRow: (row: number) => void;
  onMend: (row: number, column: string, typed: string) => void;
  onClose: () => void;
};

/** All numbers in one view: as typed, as they are read, and what is wrong, in batches that can be mended at once. */
export default function NumbersDialog({ desk, onDesk, onRow, onMend, onClose }: Props) {
  const [chosen, setChosen] = useState<string | null>(null);
  const [pages, setPages] = useState(1);
  const [trouble, setTrouble] = useState<string | null>(null);
  const path = { round_id: desk.id };
  const seen = useQuery({
    queryKey: ["numbers", desk.id, desk.version, chosen, pages],
    queryFn: ({ signal }) =>
      told(
        api.GET("/api/rounds/{round_id}/numbers", {
          signal,
          params: { path, query: { ...(chosen ? { batch: chosen } : {}), limit: Math.min(500, PAGE * pages) } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  const act = async (batch: NumberBatch, action: NumberBatch["actions"][number]["action"], country = "") => {
    try {
      onDesk(await told(api.POST("/api/rounds/{round_id}/numbers", { params: { path }, body: { batch: batch.key, action, country } })));
      setTrouble(null);
      setChosen(null);
    } catch (error) {
      setTrouble(sentenceOf(error));
    }
  };
  const numbers = seen.data;
  const batch = numbers?.batches.find((b) => b.key === chosen);
  return (
    <Dialog
      open
      onClose={onClose}
      wide
      title="The numbers"
      about={numbers?.column ? `As they stand under ${numbers.column}, and as they are read.` : "No column is the mobile number yet."}
    >
      {(trouble ?? seen.isError) && (
        <p role="alert" className="mt-2 text-failed">
          {trouble ?? sentenceOf(seen.error)}
        </p>
      )}
      <div className="mt-4 grid grid-cols-1 gap-4 md:h-[56vh] md:grid-cols-[290px_minmax(0,1fr)]">
        <nav aria-label="Groups" className="space-y-1 overflow-auto">
          <GroupButton on={chosen === null} onClick={() => setChosen(null)}>
            All {counted(desk.rows, "number")}
          </GroupButton>
          {numbers?.batches.map((g) => (
            <GroupButton key={g.key} on={g.key === chosen} wrong={g.wrong} onClick={() => setChosen(g.key)}>
              {g.sentence}
            </GroupButton>
          ))}
        </nav>
        <div className="flex min-h-0 flex-col">
          {batch && batch.actions.length > 0 && (
            <div className="mb-2 flex flex-wrap items-center gap-2">
              {batch.actions.map((a) =>
                a.action === "read as" ? (
                  <ReadAs key={a.action} label={a.label} onRead={(country) => void act(batch, a.action, country)} />
                ) : (
                  <Button key={a.action} onClick={() => void act(batch, a.action)}>
                    {a.label}
                  </Button>
                ),
              )}
            </div>
          )}
          <div tabIndex={0} role="group" aria-label="Numbers" className="max-h-[60vh] min-h-0 flex-1 overflow-auto rounded-[3px] border border-rule-strong bg-leaf">
            <table className="w-full">
              <thead className="sticky top-0 bg-leaf">
                <tr className="label border-b border-rule-strong text-left">
                  {["Row", "Who", "As typed", "As read", "Country", "Kind"].map((name, i) => (
                    <th key={name} className={`px-2 py-1 font-semibold ${i === 0 ? "text-right" : ""}`}>
                      {name}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {numbers?.rows.map((n) => (
                  <tr key={n.row} className="border-b border-rule">
                    <td className="px-2 text-right">
                      <button type="button" className="text-pencil hover:text-ink" onClick={() => onRow(n.row)}>
                        {figure(n.row)}
                      </button>
                    </td>
                    <td className="max-w-36 truncate px-2" title={n.label}>
                      {n.label}
                    </td>
                    <td className="px-1 py-0.5">
                      <Typed
                        key={n.typed}
                        row={n.row}
                        typed={n.typed}
                        wrong={!!n.problem}
                        onKeep={(typed) => numbers.column && onMend(n.row, numbers.column, typed)}
                      />
                    </td>
                    {n.problem ? (
                      <td colSpan={3} className="px-2 text-held">
                        {n.problem}
                      </td>
                    ) : (
                      <>
                        <td className="px-2">{n.e164}</td>
                        <td className="px-2" title={n.zone}>
                          {n.country}
                        </td>
                        <td className="px-2 text-ink-2">{n.kind}</td>
                      </>
                    )}
                  </tr>
                ))}
              </tbody>
            </table>
            {numbers && numbers.rows.length < numbers.total && (
              <Button kind="quiet" className="m-2" disabled={pages >= 5} onClick={() => setPages(pages + 1)}>
                {pages >= 5 ? `The first ${figure(numbers.rows.length)} of ${figure(numbers.total)}` : `Show more of ${figure(numbers.total)}`}
              </Button>
            )}
          </div>
        </div>
      </div>
      <div className="dialog-foot">
        <p className="mr-auto text-ink-2">A change here can be undone on the desk.</p>
        <Button className="txt-15" onClick={onClose}>
          Back to the desk
        </Button>
      </div>
    </Dialog>
  );
}

function GroupButton({ on, wrong = false, onClick, children }: { on: boolean; wrong?: boolean; onClick: () => void; children: React.ReactNode }) {
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={onClick}
      className={`block w-full rounded-[3px] border px-3 py-1.5 text-left ${on ? "border-ink bg-ink text-leaf" : `border-rule-strong bg-leaf hover:border-pencil ${wrong ? "text-held" : ""}`}`}
    >
      {children}
    </button>
  );
}

function Typed({ row, typed, wrong, onKeep }: { row: number; typed: string; wrong: boolean; onKeep: (typed: string) => void }) {
  const [text, setText] = useState(typed);
  const keep = () => text !== typed && onKeep(text);
  return (
    <input
      aria-label={`Number of row ${row}`}
      value={text}
      onChange={(e) => setText(e.target.value)}
      onBlur={keep}
      onKeyDown={(e) => e.key === "Enter" && keep()}
      className={`w-44 rounded-[3px] border bg-leaf px-1.5 py-0.5 ${wrong ? "border-held" : "border-transparent hover:border-rule-strong"}`}
    />
  );
}

function ReadAs({ label, onRead }: { label: string; onRead: (country: string) => void }) {
  const [country, setCountry] = useState("");
  const { places } = useCatalogue();
  return (
    <form
      className="flex items-center gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        if (country.trim()) onRead(codeOf(places.region, country));
      }}
    >
      <input
        aria-label="Country"
        value={country}
        list="countries"
        placeholder="United States"
        onChange={(e) => setCountry(e.target.value)}
        className="w-44 rounded-[3px] border border-rule-strong bg-leaf px-2 py-1 placeholder:text-pencil"
      />
      <datalist id="countries">
        {places.region.map((p) => (
          <option key={p.code} value={p.name} />
        ))}
      </datalist>
      <Button type="submit" disabled={!country.trim()}>
        {label}
      </Button>
    </form>
  );
}
