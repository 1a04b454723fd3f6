import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { DropdownMenu } from "radix-ui";
import { useEffect, useMemo, useState } from "react";
import { Link } from "react-router";
import { api, sentenceOf, told, type ComputedIn, type Desk } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { counted } from "../../ui/format.ts";
import { isComputed } from "../wording/editor.ts";
import { FormatField } from "./FormatField.tsx";
import { FormulaBox } from "./FormulaBox.tsx";

const SETTLED_AFTER = 350;

type Props = {
  desk: Desk;
  /** The computed column that is changed; null for a new one. */
  was: string | null;
  link: boolean;
  row: number;
  onRow: (row: number) => void;
  onPut: (body: ComputedIn) => void;
  onRemove: (name: string) => void;
  onClose: () => void;
};

/** Writing a formula or a link: its value in the selected row, and the first row that has none, while typing. */
export function ComputePanel({ desk, was, link, row, onRow, onPut, onRemove, onClose }: Props) {
  const before = desk.columns.find((c) => c.name === was && isComputed(c));
  const [name, setName] = useState(before?.name ?? "");
  const [text, setText] = useState((link ? before?.template : before?.formula) ?? "");
  const [begun, setBegun] = useState({ text, from: "itself" });
  const [format, setFormat] = useState(before ? (before.format ?? "") : "money");
  const [fallback, setFallback] = useState(before?.fallback ?? "");
  const source = link ? { template: text } : { formula: text, format: format.trim() || null };
  const draft = { ...source, was, fallback: fallback || null };
  const settled = useSettled(JSON.stringify(draft));

  const tried = useQuery({
    queryKey: ["try", desk.id, desk.version, row, draft],
    queryFn: ({ signal }) =>
      told(
        api.POST("/api/rounds/{round_id}/columns/try", {
          signal,
          params: { path: { round_id: desk.id } },
          body: { ...draft, name: name || "new", row },
        }),
      ),
    enabled: !!text.trim(),
    placeholderData: keepPreviousData,
  });
  const problem = text.trim() ? (tried.data?.problem ?? null) : null;
  const onAll = useQuery({
    queryKey: ["try all", desk.id, desk.version, settled],
    queryFn: ({ signal }) =>
      told(
        api.POST("/api/rounds/{round_id}/columns/try-all", {
          signal,
          params: { path: { round_id: desk.id } },
          body: { ...(JSON.parse(settled) as typeof draft), name: name || "new", row: 1 },
        }),
      ),
    enabled: !!text.trim() && !!tried.data && !tried.data.problem && settled === JSON.stringify(draft),
    placeholderData: keepPreviousData,
  });
  const others = useMemo(() => desk.columns.filter((c) => c.name !== was), [desk.columns, was]);
  const usable = !!text.trim() && !!name.trim() && !problem && !tried.isError;
  const what = link ? "link" : "column";
  return (
    <section aria-label={before ? `Computed column ${before.name}` : `New computed ${what}`} className="rounded-[3px] border border-rule-strong bg-leaf">
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (usable) onPut({ ...draft, name });
        }}
      >
        <header className="flex items-center gap-3 border-b border-rule px-3 py-1.5">
          <h2 className="label mr-auto">{before ? `Computed ${what}` : link ? "Make a link" : "Compute a column"}</h2>
          {!link && <StartingPoints desk={desk} onChoose={(point) => {
            setText(point.formula);
            setBegun({ text: point.formula, from: `${point.key}/${Date.now()}` });
            setFormat(point.format);
            if (!name.trim()) setName(point.column);
          }} />}
          <button type="button" onClick={onClose} className="text-ink-2 hover:text-ink">
            Close
          </button>
        </header>
        <div className="space-y-2 px-3 pt-2 pb-3">
          <div>
            <label className="label block" htmlFor="computed-name">
              Name
            </label>
            <input
              id="computed-name"
              value={name}
              maxLength={200}
              placeholder={link ? "Pay link" : "Due"}
              onChange={(e) => setName(e.target.value)}
              className="mt-0.5 w-full rounded-[3px] border border-rule-strong bg-leaf px-2 py-1 placeholder:text-pencil"
            />
          </div>
          <div>
            <div className="label mb-0.5 flex justify-between">
              <span>{link ? "Address, with columns in it" : "Formula"}</span>
              {!link && (
                <Link to="/functions" className="font-normal underline decoration-pencil-stroke underline-offset-3 hover:text-ink">
                  All functions
                </Link>
              )}
            </div>
            <FormulaBox
              label={link ? "Address" : "Formula"}
              hint={link ? "https://pay.saltmarsh.example/{Berth}{?Due}" : "Press { for a column, or begin a function’s name"}
              text={begun.text}
              from={begun.from}
              columns={others}
              formula={!link}
              problem={problem}
              focused={!!before}
              onChange={setText}
            />
          </div>
          <Outcome
            row={row}
            empty={!text.trim()}
            tried={tried.data}
            failed={tried.isError ? sentenceOf(tried.error) : null}
            onAll={problem ? undefined : onAll.data}
            link={link}
            onRow={onRow}
          />
          <div className="flex gap-3">
            {!link && (
              <div className="min-w-0 flex-1">
                <FormatField id="computed-format" formats={desk.formats} usual="by its value" value={format} onChange={setFormat} />
              </div>
            )}
            <div className="min-w-0 flex-1">
              <label className="label block" htmlFor="computed-fallback">
                When blank, write
              </label>
              <input
                id="computed-fallback"
                value={fallback}
                placeholder="nothing: held"
                onChange={(e) => setFallback(e.target.value)}
                className="mt-0.5 w-full rounded-[3px] border border-rule-strong bg-leaf px-2 py-1 placeholder:text-pencil"
              />
            </div>
          </div>
          <div className="flex items-center gap-2 pt-1">
            <Button type="submit" kind="plain" disabled={!usable} className={usable ? "border-act! bg-act! text-white!" : ""}>
              {before ? "Change the column" : "Put the column in"}
            </Button>
            {before && (
              <Button kind="quiet" onClick={() => onRemove(before.name)}>
                Take it out
              </Button>
            )}
          </div>
        </div>
      </form>
    </section>
  );
}

/** The text once typing has rested. */
function useSettled(text: string): string {
  const [settled, setSettled] = useState(text);
  useEffect(() => {
    const rest = setTimeout(() => setSettled(text), SETTLED_AFTER);
    return () => clearTimeout(rest);
  }, [text]);
  return settled;
}

type Tried = { problem: { message: string; remedy: string } | null; shown: string | null; explained: string | null; trouble: string | null };
type OnAll = { wrong: number; blank: number; first: { row: number; label: string; why: string } | null };

function Outcome({
  row,
  empty,
  tried,
  failed,
  onAll,
  link,
  onRow,
}: {
  row: number;
  empty: boolean;
  tried: Tried | undefined;
  failed: string | null;
  onAll: OnAll | undefined;
  link: boolean;
  onRow: (row: number) => void;
}) {
  if (failed) return <p role="alert" className="text-failed">{failed}</p>;
  if (empty || !tried) return <p className="text-ink-2">Row {row} shows here what it comes to.</p>;
  if (tried.problem)
    return (
      <p role="alert" className="text-failed">
        {tried.problem.message} {tried.problem.remedy}
      </p>
    );
  return (
    <div className="space-y-1" role="status">
      <p className="wrap-anywhere" data-testid="formula-result">
        <span className="text-ink-2">Row {row}: </span>
        {tried.trouble ? (
          <span className="text-held">no value, {tried.trouble}</span>
        ) : link && tried.shown ? (
          <a href={tried.shown} target="_blank" rel="noreferrer" className="underline decoration-pencil-stroke underline-offset-3">
            {tried.shown}
          </a>
        ) : (
          (tried.explained ?? tried.shown ?? <span className="text-ink-2">blank</span>)
        )}
      </p>
      {onAll && onAll.wrong > 0 && onAll.first && (
        <p className="text-held">
          {counted(onAll.wrong, "row has", "rows have")} no value, first{" "}
          <button type="button" className="underline underline-offset-3" onClick={() => onAll.first && onRow(onAll.first.row)}>
            row {onAll.first.row}
          </button>
          : {onAll.first.why}.
        </p>
      )}
      {onAll && onAll.wrong === 0 && (
        <p className="text-ink-2">
          {onAll.blank ? `Every row can be worked out; ${counted(onAll.blank, "row stays", "rows stay")} blank.` : "Every row has a value."}
        </p>
      )}
    </div>
  );
}

function StartingPoints({ desk, onChoose }: { desk: Desk; onChoose: (point: { key: string; formula: string; format: string; column: string }) => void }) {
  const { data } = useQuery({
    queryKey: ["starting points", desk.id, desk.version],
    queryFn: () => told(api.GET("/api/rounds/{round_id}/columns/starting-points", { params: { path: { round_id: desk.id } } })),
    placeholderData: keepPreviousData,
  });
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <button type="button" className="text-ink-2 underline decoration-pencil-stroke underline-offset-3 hover:text-ink">
          Start from…
        </button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={6}
          className="z-50 max-h-[70vh] w-[360px] overflow-auto rounded-[4px] border border-rule-strong bg-leaf py-1 shadow-lifted"
        >
          {data?.map((point) => (
            <DropdownMenu.Item
              key={point.key}
              onSelect={() => onChoose(point)}
              className="cursor-pointer px-3 py-1 outline-none data-highlighted:bg-chosen"
            >
              <span className="font-semibold">{point.label}</span>
              <span className="block text-[13px] leading-snug text-ink-2">{point.about}</span>
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
