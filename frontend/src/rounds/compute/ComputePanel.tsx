import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { Link } from "react-router";
import { api, sentenceOf, told, type ComputedIn, type Desk, type StartingPoint } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { counted } from "../../ui/format.ts";
import { Menu } from "../../ui/Menu.tsx";
import { useSettled } from "../../ui/useSettled.ts";
import { isComputed } from "../columns.ts";
import { useDraft } from "../../state/useDraft.ts";
import { FormatField } from "./FormatField.tsx";
import { FormulaBox } from "./FormulaBox.tsx";
import { Line, Missing, Paper } from "./Paper.tsx";

type Draft = { name: string; text: string; format: string; fallback: string };

/** Where what is typed is kept until it is put in. */
const draftKey = (uid: string, link: boolean, was: string | null): string => `compute/${uid}/${link ? "link" : "formula"}/${was ?? ""}`;

type Props = {
  desk: Desk;
  /** The computed column that is changed; null for a new one. */
  was: string | null;
  link: boolean;
  row: number;
  onRow: (row: number) => void;
  onPut: (body: ComputedIn, then: () => void) => void;
  onRemove: (name: string, then: () => void) => void;
  onClose: () => void;
};

/** Writing a formula or a link: its value in the selected row, and the first row that has none, while typing. */
export default function ComputePanel({ desk, was, link, row, onRow, onPut, onRemove, onClose }: Props) {
  const before = desk.columns.find((c) => c.name === was && isComputed(c));
  const [draft, setDraft, forget] = useDraft<Draft>(draftKey(desk.uid, link, was), {
    name: before?.name ?? "",
    text: (link ? before?.template : before?.formula) ?? "",
    format: before?.format ?? "",
    fallback: before?.fallback ?? "",
  });
  const { name, text, format, fallback } = draft;
  const write = (part: Partial<Draft>) => setDraft((now) => ({ ...now, ...part }));
  const [begun, setBegun] = useState({ text, from: "itself" });
  const source = link ? { template: text } : { formula: text, format: format.trim() || null };
  const tryOut = { ...source, was, fallback: fallback || null };
  const settled = useSettled(JSON.stringify(tryOut));

  const tried = useQuery({
    queryKey: ["try", desk.id, desk.version, row, tryOut],
    queryFn: ({ signal }) =>
      told(
        api.POST("/api/rounds/{round_id}/columns/try", {
          signal,
          params: { path: { round_id: desk.id } },
          body: { ...tryOut, name: name || "new", row },
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
          body: { ...(JSON.parse(settled) as typeof tryOut), name: name || "new", row: 1 },
        }),
      ),
    enabled: !!text.trim() && !!tried.data && !tried.data.problem && settled === JSON.stringify(tryOut),
    placeholderData: keepPreviousData,
  });
  const others = useMemo(() => desk.columns.filter((c) => c.name !== was), [desk.columns, was]);
  const usable = !!text.trim() && !!name.trim() && !problem && !tried.isError;
  const [asked, setAsked] = useState(false);
  const missing = !text.trim() ? `Write the ${link ? "address" : "formula"} first.` : !name.trim() ? `Give the ${link ? "link" : "column"} a name first.` : "";
  const what = link ? "link" : "column";
  const start = (point: StartingPoint) => {
    setBegun({ text: point.formula, from: `${point.key}/${point.formula}/${text}` });
    write({ text: point.formula, format: point.format, name: name.trim() ? name : point.column });
  };
  return (
    <Paper
      label={before ? `Computed column ${before.name}` : `New computed ${what}`}
      title={before ? `Computed ${what}` : link ? "Make a link" : "Compute a column"}
      extra={!link && <StartingPoints desk={desk} onChoose={start} />}
      onClose={onClose}
    >
      <form
        className="space-y-2"
        onSubmit={(e) => {
          e.preventDefault();
          setAsked(!usable);
          if (usable) onPut({ ...tryOut, name }, forget);
        }}
      >
        <Line id="computed-name" label="Name" value={name} placeholder={link ? "Pay link" : "Due"} first={!before} onChange={(typed) => write({ name: typed })} />
          <div>
            <div className="label mb-0.5">{link ? "Address, with columns in it" : "Formula"}</div>
            <FormulaBox
              roundId={desk.id}
              label={link ? "Address" : "Formula"}
              hint={link ? "https://pay.saltmarsh.example/{Berth}{?Due}" : "Press { for a column, or begin a function’s name"}
              text={begun.text}
              from={begun.from}
              columns={others}
              formula={!link}
              problem={problem}
              focused={!!before}
              onChange={(typed) => write({ text: typed })}
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
                <FormatField id="computed-format" usual="Automatic" value={format} onChange={(typed) => write({ format: typed })} />
              </div>
            )}
            <div className="min-w-0 flex-1">
              <Line
                id="computed-fallback"
                label="Text when blank"
                value={fallback}
                placeholder="none: held"
                most={1_000}
                onChange={(typed) => write({ fallback: typed })}
              />
            </div>
          </div>
          <Missing what={asked ? missing : ""} />
          <div className="panel-foot">
            <Button type="submit" kind="plain" aria-disabled={!usable} className={usable ? "border-act! text-act!" : ""}>
              {before ? "Change the column" : "Add column"}
            </Button>
            {!link && (
              <Link to="/functions" className="ml-auto txt-13 text-ink-2 underline decoration-pencil-stroke underline-offset-3 hover:text-ink">
                All functions
              </Link>
            )}
            {before && (
              <Button kind="quiet" onClick={() => onRemove(before.name, forget)}>
                Remove column
              </Button>
            )}
          </div>
      </form>
    </Paper>
  );
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

function StartingPoints({ desk, onChoose }: { desk: Desk; onChoose: (point: StartingPoint) => void }) {
  const { data } = useQuery({
    queryKey: ["starting points", desk.id, desk.version],
    queryFn: () => told(api.GET("/api/rounds/{round_id}/columns/starting-points", { params: { path: { round_id: desk.id } } })),
    placeholderData: keepPreviousData,
  });
  const trigger = (
    <button type="button" className="text-ink-2 underline decoration-pencil-stroke underline-offset-3 hover:text-ink">
      Start from…
    </button>
  );
  const items = (data ?? []).map((point) => ({ label: point.label, about: point.about, onSelect: () => onChoose(point) }));
  return <Menu wide trigger={trigger} items={items} />;
}
