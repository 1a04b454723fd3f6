import { useEffect, useRef, useState } from "react";
import { useCatalogue } from "../../api/catalogue.ts";
import { posted, sentenceOf, type Desk, type Glance, type Newer } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { FileQuestions, fieldsOf, isOpen, type Choice } from "../../ui/FileQuestions.tsx";
import { counted, figure } from "../../ui/format.ts";
import { MendedHere, NOTHING_SAID, asJson, open, type Said } from "./MendedHere.tsx";

type Props = {
  desk: Desk;
  /** A file that was dropped on the desk; without it one is asked for. */
  dropped?: File | undefined;
  onTaken: (desk: Desk) => void;
  onClose: () => void;
};

/** A newer version of the sheet: what is new, changed and gone is shown before it is taken. */
export default function NewerDialog({ desk, dropped, onTaken, onClose }: Props) {
  const { endings } = useCatalogue();
  const chooser = useRef<HTMLInputElement>(null);
  const [file, setFile] = useState<File | null>(null);
  const [choice, setChoice] = useState<Choice>({});
  const [glance, setGlance] = useState<Glance | null>(null);
  const [newer, setNewer] = useState<Newer | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [said, setSaid] = useState<Said>(NOTHING_SAID);
  const path = `/api/rounds/${desk.id}/newer`;
  const compare = async (chosen: File, said: Choice, key?: string) => {
    if (chosen !== file) setGlance(null);
    setFile(chosen);
    setChoice(said);
    setTrouble(null);
    setSaid(NOTHING_SAID);
    try {
      setNewer(await posted<Newer>(`${path}/glance`, { file: chosen, key, ...fieldsOf(said) }));
    } catch (error) {
      setNewer(null);
      const seen = await posted<Glance>("/api/rounds/glance", { file: chosen, ...fieldsOf(said) }).catch(() => null);
      setGlance(seen);
      if (!seen || !isOpen(seen, said)) setTrouble(sentenceOf(error));
    }
  };
  const begun = useRef(false);
  useEffect(() => {
    if (dropped && !begun.current) void compare(dropped, {});
    begun.current = true;
    // A file is dropped once.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);
  const unseen = newer ? newer.changed - new Set(newer.changes.map((c) => c.row)).size : 0;
  const take = async () => {
    if (!file || !newer) return;
    try {
      onTaken(await posted<Desk>(path, { file, key: newer.key, version: newer.version, mended: asJson(said), ...fieldsOf(choice) }));
    } catch (error) {
      setTrouble(sentenceOf(error));
    }
  };
  return (
    <Dialog
      open
      onClose={onClose}
      wide={!!newer}
      title="Bring in a newer version"
      about="Wording, formulas and roles stay. What was mended here stays too, unless you say otherwise."
    >
      <input
        ref={chooser}
        type="file"
        accept={endings.join(",")}
        className="hidden"
        aria-label="Newer sheet file"
        onChange={(e) => {
          const chosen = e.target.files?.[0];
          if (chosen) void compare(chosen, {});
          e.target.value = "";
        }}
      />
      {trouble && (
        <p role="alert" className="mt-3 txt-15 text-failed">
          {trouble}
        </p>
      )}
      {file && glance && <FileQuestions glance={glance} choice={choice} onChoose={(said) => void compare(file, said)} />}
      {newer && (
        <>
          <div className="mt-4 flex items-baseline gap-8 txt-15">
            {[
              [newer.new, "new"],
              [newer.changed, "changed"],
              [newer.gone, "gone"],
            ].map(([n, word]) => (
              <p key={word}>
                <span className="title txt-22">{figure(Number(n))}</span> {word}
              </p>
            ))}
            <label className="ml-auto text-ink-2">
              Rows are matched by{" "}
              <select
                value={newer.key}
                onChange={(e) => file && void compare(file, choice, e.target.value)}
                className="rounded-[3px] border border-rule-strong bg-leaf px-1.5 py-1 text-ink"
              >
                {newer.keys.map((key) => (
                  <option key={key}>{key}</option>
                ))}
              </select>
            </label>
          </div>
          <div className="mt-3 grid gap-4 md:grid-cols-[1fr_230px_230px]">
            <div>
              <h3 className="label">Changed</h3>
              <div className="mt-1 max-h-[40vh] overflow-auto border border-rule bg-leaf" tabIndex={0} role="group" aria-label="Changed cells">
              <table className="w-full">
                <thead className="sr-only">
                  <tr>
                    {["Row", "Column", "Now", "In the newer version"].map((name) => (
                      <th key={name}>{name}</th>
                    ))}
                  </tr>
                </thead>
                <tbody>
                  {newer.changes.map((c) => (
                    <tr key={`${c.row}/${c.column}`} className="border-b border-rule last:border-0">
                      <td className="px-2 py-0.5">{c.label || `Row ${c.row}`}</td>
                      <td className="px-2 py-0.5 text-ink-2">{c.column}</td>
                      <td className="px-2 py-0.5 text-right text-pencil line-through">{c.before || "blank"}</td>
                      <td className="px-2 py-0.5 text-right font-semibold">{c.after || "blank"}</td>
                    </tr>
                  ))}
                  {!newer.changes.length && (
                    <tr>
                      <td className="px-2 py-1 text-ink-2">No cell of a row that stays is another one.</td>
                    </tr>
                  )}
                </tbody>
              </table>
              </div>
              {unseen > 0 && <p className="text-ink-2">and {counted(unseen, "more row")}</p>}
            </div>
            <Named title="New" rows={newer.new_rows} all={newer.new} />
            <Named title="Gone" rows={newer.gone_rows} all={newer.gone} />
          </div>
          <MendedHere newer={newer} said={said} onSay={setSaid} />
          <p className="mt-3 text-ink-2">
            {counted(newer.rows, "row")} in the newer version{newer.reading && `; ${newer.reading}`}.
            {newer.columns_new.length > 0 && ` New columns: ${newer.columns_new.join(", ")}.`}
            {newer.columns_gone.length > 0 && ` Columns gone: ${newer.columns_gone.join(", ")}.`}
          </p>
        </>
      )}
      <div className="dialog-foot">
        <Button data-first className="txt-15" onClick={onClose}>
          Cancel
        </Button>
        {newer && (
          <Button className="txt-15" onClick={() => chooser.current?.click()}>
            Another file
          </Button>
        )}
        <Button kind="act" disabled={!!newer && open(newer, said) > 0} onClick={() => (newer ? void take() : chooser.current?.click())}>
          {!newer
            ? "Choose the newer file"
            : open(newer, said)
              ? `First say what counts in ${counted(open(newer, said), "cell")}`
              : `Take the newer ${counted(newer.rows, "row")}`}
        </Button>
      </div>
    </Dialog>
  );
}

function Named({ title, rows, all }: { title: string; rows: Newer["new_rows"]; all: number }) {
  return (
    <div>
      <h3 className="label">{title}</h3>
      <ul className="mt-1 border border-rule bg-leaf px-2 py-0.5">
        {rows.map((r) => (
          <li key={r.row} className="truncate py-0.5">
            {r.label || `Row ${r.row}`}
          </li>
        ))}
        {all > rows.length && <li className="py-0.5 text-ink-2">and {figure(all - rows.length)} more</li>}
        {!all && <li className="py-0.5 text-ink-2">none</li>}
      </ul>
    </div>
  );
}
