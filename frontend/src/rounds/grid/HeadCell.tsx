import { memo, useState } from "react";
import { useCatalogue } from "../../api/catalogue.ts";
import type { ColumnChange, ColumnOut, Order } from "../../api/client.ts";
import { useDraft } from "../../state/useDraft.ts";
import { Button } from "../../ui/Button.tsx";
import { counted } from "../../ui/format.ts";
import { Popover } from "../../ui/Popover.tsx";
import { FormatField } from "../compute/FormatField.tsx";
import { isComputed } from "../columns.ts";

const FIGURES: Order[] = ["decimal point", "decimal comma", "each by itself"];
const DAYS: Order[] = ["day first", "month first", "year first", "each by itself", "the office's clocks", "the day as written"];

type Props = {
  column: ColumnOut;
  locked: boolean;
  onChange: (name: string, change: ColumnChange) => void;
  /** Opens a computed column's formula or link. */
  onFormula: (column: ColumnOut) => void;
};

/** A column's role in small letters above its name; pressing it changes the role or the fallback. */
export const HeadCell = memo(function HeadCell({ column, locked, onChange, onFormula }: Props) {
  const [open, setOpen] = useState(false);
  // What was chosen counts once the paper is closed, whichever way: nothing is set while one moves through it.
  const [draft, setDraft, forget] = useDraft<ColumnChange>(`column${location.pathname}/${column.name}`, {});
  const turn = (now: boolean) => {
    setOpen(now);
    if (now || !Object.keys(draft).length) return;
    onChange(column.name, draft.format ? { ...draft, format: draft.format.trim() } : draft);
    setDraft({});
    forget();
  };
  const align = column.to_the_right ? "items-end text-right" : "items-start text-left";
  const words = (
    <>
      <span className={`w-0 truncate txt-12 leading-4 text-pencil ${column.to_the_right ? "min-w-full" : "min-w-[calc(100%+8px)]"}`}>
        {column.formula !== null ? "computed" : column.role}
        {column.question ? <b className="text-held"> · read how?</b> : column.read_as ? ` · ${column.read_as}` : ""}
        {column.fallback ? ` · when blank: ${column.fallback}` : ""}
      </span>
      <span className="max-w-full truncate font-semibold">{column.name}</span>
    </>
  );
  const computed = isComputed(column);
  const said = column.question?.ask ?? column.evidence;
  if (computed && !locked)
    return (
      <button
        type="button"
        title={column.problem?.message ?? column.formula ?? column.template ?? ""}
        onClick={() => onFormula(column)}
        className={`flex min-w-0 flex-col overflow-hidden px-2 py-1 whitespace-nowrap text-arrived hover:bg-chosen ${align}`}
      >
        {words}
      </button>
    );
  if (locked) return <div className={`flex min-w-0 flex-col px-2 py-1 ${align}`}>{words}</div>;
  return (
    <Popover
      open={open}
      onOpenChange={turn}
      label={`Column ${column.name}`}
      width="w-[340px]"
      trigger={
        <button
          type="button"
          title={`Change what this column is for${said ? `. ${said}` : ""}`}
          className={`flex min-w-0 flex-col overflow-hidden px-2 py-1 whitespace-nowrap hover:bg-chosen ${align}`}
        >
          {words}
        </button>
      }
    >
      <Settings column={column} draft={draft} onDraft={setDraft} onDone={() => turn(false)} />
    </Popover>
  );
});

type SettingsProps = {
  column: ColumnOut;
  /** What is chosen here and not set yet. */
  draft: ColumnChange;
  onDraft: (draft: ColumnChange) => void;
  onDone: () => void;
};

function Settings({ column, draft, onDraft, onDone }: SettingsProps) {
  const { roles } = useCatalogue();
  /** What is chosen again as it is set already is no change. */
  const choose = <K extends keyof ColumnChange>(name: K, value: ColumnChange[K]) => {
    const others = Object.fromEntries(Object.entries(draft).filter(([other]) => other !== name)) as ColumnChange;
    onDraft(value === (column as Pick<ColumnChange, K>)[name] ? others : { ...others, [name]: value });
  };
  const role = draft.role ?? column.role;
  const reading = draft.reading === undefined ? column.reading : draft.reading;
  const format = draft.format === undefined ? column.format : draft.format;
  const fallback = draft.fallback === undefined ? column.fallback : draft.fallback;
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        onDone();
      }}
    >
      <fieldset>
        <legend className="label">What “{column.name}” is for</legend>
        <div className="mt-1.5 grid grid-cols-2 gap-x-2 gap-y-0.5">
          {roles.map((r) => (
            <label key={r.role} className="flex cursor-pointer items-baseline gap-2 rounded-[2px] px-1 py-0.5 hover:bg-chosen">
              <input
                type="radio"
                name="role"
                className="accent-act"
                data-first={role === r.role || undefined}
                checked={role === r.role}
                onChange={() => choose("role", r.role)}
              />
              <span>
                <span className="font-semibold">{r.role}</span>
                {r.role === column.recognised && <span className="txt-13 text-ink-2"> recognised</span>}
              </span>
            </label>
          ))}
        </div>
        <p className="mt-1 px-1 txt-13 text-ink-2">
          {roles.find((r) => r.role === role)?.doc}
          {role === column.recognised && column.recognised_by && ` Recognised because ${column.recognised_by}.`}
        </p>
      </fieldset>
      {role === column.role && (role === "date" || role === "money" || role === "number") && (
        <div className="mt-3">
          <label className="label block" htmlFor="reading">
            {column.role === "date" ? "How its days are read" : "Decimal mark"}
          </label>
          {column.question && <p className="text-held">{column.question.ask}</p>}
          {column.evidence && <p className="txt-13 text-ink-2">{column.evidence}</p>}
          <select
            id="reading"
            value={reading ?? ""}
            onChange={(e) => choose("reading", (e.target.value || null) as ColumnOut["reading"])}
            className="mt-0.5 w-full rounded-[3px] border border-rule-strong bg-leaf px-1.5 py-1"
          >
            <option value="">as the column shows</option>
            {(column.role === "date" ? DAYS : FIGURES).map((order) => (
              <option key={order}>{order}</option>
            ))}
          </select>
        </div>
      )}
      <div className="mt-3">
        <FormatField id="format" usual="Automatic" value={format ?? ""} onChange={(text) => choose("format", text.trim() ? text : null)} />
      </div>
      <label className="label mt-3 block" htmlFor="fallback">
        Text when blank
      </label>
      <input
        id="fallback"
        value={fallback ?? ""}
        placeholder="none: the row is held"
        onChange={(e) => choose("fallback", e.target.value || null)}
        className="mt-1 w-full rounded-[3px] border border-rule-strong bg-leaf px-2 py-1"
      />
      <p className="mt-1 txt-13 text-ink-2">{column.blanks ? `${counted(column.blanks, "cell is", "cells are")} blank.` : "No cell is blank."}</p>
      <div className="paper-foot">
        <Button type="submit">Done</Button>
        <span className="txt-13 text-ink-2">Escape and a click outside keep it just so.</span>
      </div>
    </form>
  );
}
