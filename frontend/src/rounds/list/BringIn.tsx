import { withValue } from "../../api/key.ts";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { api, posted, sentenceOf, told, type Glance, type RoundInList } from "../../api/client.ts";
import { useCatalogue } from "../../api/catalogue.ts";
import { useActions, type Action } from "../../ui/actions.tsx";
import { Button } from "../../ui/Button.tsx";
import { fieldsOf, type Choice } from "../../ui/FileQuestions.tsx";
import { useDrop } from "../../ui/useDrop.ts";
import { takeHanded } from "./handedOver.ts";
import { GlanceDialog, type Answers } from "./GlanceDialog.tsx";

const PASTED = "pasted cells.tsv";

/** What a new round's set-up is taken from: nothing, an earlier round, or a recipe file. */
type Like = { kind: "new" } | { kind: "round"; id: number } | { kind: "recipe"; file: File };

/** Dropping, choosing or pasting a sheet. A file may be dropped anywhere on the page. */
export function BringIn({ rounds }: { rounds: RoundInList[] }) {
  const go = useNavigate();
  const queries = useQueryClient();
  const { endings } = useCatalogue();
  const chooser = useRef<HTMLInputElement>(null);
  const recipes = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState<string | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [pasting, setPasting] = useState(false);
  const [lookFirst, setLookFirst] = useState(false);
  const [like, setLike] = useState<Like>({ kind: "new" });
  const [seen, setSeen] = useState<{ file: File; glance: Glance } | null>(null);
  const samples = useQuery({ queryKey: ["samples"], queryFn: () => told(api.GET("/api/samples")) });

  const look = useCallback((file: File, choice: Choice) => posted<Glance>("/api/rounds/glance", { file, ...fieldsOf(choice) }), []);
  const bring = useCallback(
    async (file: File, choice: Choice, ask: boolean, answers: Answers = {}) => {
      setBusy(file.name);
      setTrouble(null);
      try {
        const from = like.kind === "round" ? { like: like.id } : like.kind === "recipe" ? { recipe: like.file } : {};
        const made = await posted<RoundInList>("/api/rounds", {
          file,
          ...fieldsOf(choice),
          ...from,
          answers: JSON.stringify(answers),
          ask: ask ? 1 : undefined,
        });
        await queries.invalidateQueries({ queryKey: ["rounds"] });
        void go(`/rounds/${made.id}`);
        setSeen(null);
      } catch (error) {
        // What is to be decided or mended is easier said with the file's first lines in sight.
        const glance = ask ? await look(file, {}).catch(() => null) : null;
        if (glance) setSeen({ file, glance });
        else setTrouble(sentenceOf(error));
      }
      setBusy(null);
    },
    [go, queries, like, look],
  );
  const file = useCallback(
    async (chosen: File | undefined) => {
      if (!chosen) return;
      if (chosen.name.toLowerCase().endsWith(".toml")) {
        setLike({ kind: "recipe", file: chosen });
        return;
      }
      if (!lookFirst) {
        void bring(chosen, {}, true);
        return;
      }
      setTrouble(null);
      try {
        setSeen({ file: chosen, glance: await look(chosen, {}) });
      } catch (error) {
        setTrouble(sentenceOf(error));
      }
    },
    [bring, look, lookFirst],
  );

  const over = useDrop((dropped) => void file(dropped));
  // What was dropped on a desk, to be a round of its own.
  useEffect(() => {
    const handed = takeHanded();
    if (handed) queueMicrotask(() => void file(handed));
    // It is handed over once.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);
  // Cells pasted on the page itself need no box to be pasted into.
  useEffect(() => {
    const onPaste = (e: ClipboardEvent) => {
      if (e.target instanceof Element && e.target.closest("input, textarea, [role=dialog]")) return;
      const dropped = e.clipboardData?.files[0];
      const text = e.clipboardData?.getData("text/plain") ?? "";
      if (dropped) void file(dropped);
      else if (text.trim()) void file(new File([text], PASTED));
    };
    document.addEventListener("paste", onPaste);
    return () => document.removeEventListener("paste", onPaste);
  }, [file]);

  const actions = useMemo<Action[]>(
    () => [{ name: "bring-in", label: "Bring in a sheet", keys: ["Alt b"], perform: () => chooser.current?.click() }],
    [],
  );
  useActions("bring-in", actions);

  return (
    <section aria-label="Bring in a sheet" data-region="bring in" className="rounded-[3px] border border-rule-strong bg-leaf p-5">
      <h2 className="title txt-19">Bring in a sheet</h2>
      <div
        className={`mt-3 rounded-[3px] border border-dashed px-4 py-7 text-center ${over ? "border-sent bg-chosen" : "border-pencil-stroke"}`}
      >
        {busy ? (
          <p role="status" className="txt-15">
            Reading {busy}…
          </p>
        ) : (
          <>
            <p className="txt-15">Drop a CSV, TSV, XLSX, XLS or ODS file here</p>
            <div className="mt-3 flex justify-center gap-2">
              <Button data-first kind="act" onClick={() => chooser.current?.click()}>
                Choose a file
              </Button>
              <Button className="txt-15" onClick={() => setPasting(!pasting)} aria-expanded={pasting}>
                Paste cells
              </Button>
            </div>
          </>
        )}
        <input
          ref={chooser}
          type="file"
          accept={endings.join(",")}
          className="hidden"
          aria-label="Sheet file"
          onChange={(e) => {
            void file(e.target.files?.[0]);
            e.target.value = "";
          }}
        />
        <input
          ref={recipes}
          type="file"
          accept=".toml"
          className="hidden"
          aria-label="Settings file"
          onChange={(e) => {
            const chosen = e.target.files?.[0];
            if (chosen) setLike({ kind: "recipe", file: chosen });
            e.target.value = "";
          }}
        />
      </div>
      {pasting && !busy && <Paste onPaste={(pasted) => void file(pasted)} />}
      {trouble && (
        <p role="alert" className="mt-3 border-l-2 border-failed pl-3 txt-15 text-failed">
          {trouble}
        </p>
      )}
      <label className="label mt-3 block" htmlFor="like">
        Wording, formulas and pace
      </label>
      <select
        id="like"
        value={like.kind === "round" ? String(like.id) : like.kind}
        onChange={(e) => {
          const { value } = e.target;
          if (value === "choose") recipes.current?.click();
          else setLike(value === "new" ? { kind: "new" } : { kind: "round", id: Number(value) });
        }}
        className="mt-0.5 w-full rounded-[3px] border border-rule-strong bg-leaf px-1.5 py-1"
      >
        <option value="new">start empty</option>
        {rounds.map((r) => (
          <option key={r.id} value={r.id}>
            the same as in {r.title} (no. {r.id})
          </option>
        ))}
        {like.kind === "recipe" && <option value="recipe">from {like.file.name}</option>}
        <option value="choose">from a settings file…</option>
      </select>
      <label className="mt-2 flex items-center gap-2 text-ink-2">
        <input type="checkbox" className="accent-act" checked={lookFirst} onChange={(e) => setLookFirst(e.target.checked)} />
        Show me how it is read first
      </label>
      <h3 className="label mt-4">Sample sheets to try, and to see what is expected</h3>
      <ul className="mt-1 space-y-1.5">
        {samples.data?.map((s) => (
          <li key={s.file_name}>
            <a className="font-semibold underline decoration-pencil-stroke underline-offset-3" href={withValue(`/api/samples/${s.file_name}`)}>
              {s.file_name}
            </a>
            <div className="txt-13 text-ink-2">{s.about}</div>
          </li>
        ))}
      </ul>
      {seen && (
        <GlanceDialog
          file={seen.file}
          first={seen.glance}
          look={look}
          busy={!!busy}
          onBring={(choice, answers) => void bring(seen.file, choice, false, answers)}
          onClose={() => setSeen(null)}
        />
      )}
    </section>
  );
}

function Paste({ onPaste }: { onPaste: (pasted: File) => void }) {
  const [cells, setCells] = useState("");
  return (
    <form
      className="mt-3"
      onSubmit={(e) => {
        e.preventDefault();
        onPaste(new File([cells], PASTED));
      }}
    >
      <label className="label" htmlFor="pasted">
        Cells copied from a spreadsheet, names of the columns first
      </label>
      <textarea
        id="pasted"
        autoFocus
        rows={6}
        value={cells}
        onChange={(e) => setCells(e.target.value)}
        className="mt-1 w-full rounded-[3px] border border-rule-strong bg-leaf p-2 txt-13 whitespace-pre"
      />
      <Button type="submit" className="mt-1" disabled={!cells.trim()}>
        Bring in the pasted cells
      </Button>
    </form>
  );
}
