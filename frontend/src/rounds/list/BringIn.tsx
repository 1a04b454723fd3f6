import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { api, sentenceOf, told, Trouble, NO_ANSWER, type RoundInList } from "../../api/client.ts";
import { useActions, type Action } from "../../ui/actions.tsx";
import { Button } from "../../ui/Button.tsx";

async function send(form: FormData): Promise<RoundInList> {
  const answer = await fetch("/api/rounds", { method: "POST", body: form }).catch(() => {
    throw new Trouble(NO_ANSWER, "no answer");
  });
  const body = (await answer.json().catch(() => ({}))) as RoundInList & { detail?: string; kind?: string };
  if (!answer.ok) throw new Trouble(body.detail ?? NO_ANSWER, body.kind ?? "");
  return body;
}

/** The worksheets to choose from. What cannot be opened has none; bringing it in then says why. */
async function worksheetsOf(form: FormData): Promise<string[]> {
  const answer = await fetch("/api/rounds/worksheets", { method: "POST", body: form }).catch(() => null);
  return answer?.ok ? ((await answer.json()) as string[]) : [];
}

/** Dropping, choosing or pasting a sheet. A file may be dropped anywhere on the page. */
export function BringIn() {
  const go = useNavigate();
  const queries = useQueryClient();
  const chooser = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState<string | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [over, setOver] = useState(false);
  const [pasting, setPasting] = useState(false);
  const [choice, setChoice] = useState<{ form: FormData; file: string; names: string[] } | null>(null);
  const samples = useQuery({ queryKey: ["samples"], queryFn: () => told(api.GET("/api/samples")) });

  const bring = useCallback(
    async (form: FormData, name: string) => {
      setBusy(name);
      setTrouble(null);
      try {
        const made = await send(form);
        await queries.invalidateQueries({ queryKey: ["rounds"] });
        void go(`/rounds/${made.id}`);
      } catch (error) {
        setTrouble(sentenceOf(error));
        setBusy(null);
      }
    },
    [go, queries],
  );
  const file = useCallback(
    async (chosen: File | undefined) => {
      if (!chosen) return;
      const form = new FormData();
      form.append("file", chosen);
      setTrouble(null);
      setChoice(null);
      const names = await worksheetsOf(form);
      if (names.length > 1) setChoice({ form, file: chosen.name, names });
      else void bring(form, chosen.name);
    },
    [bring],
  );

  useEffect(() => {
    const onOver = (e: DragEvent) => {
      e.preventDefault();
      setOver(true);
    };
    const onLeave = (e: DragEvent) => !e.relatedTarget && setOver(false);
    const onDrop = (e: DragEvent) => {
      e.preventDefault();
      setOver(false);
      void file(e.dataTransfer?.files[0]);
    };
    window.addEventListener("dragover", onOver);
    window.addEventListener("dragleave", onLeave);
    window.addEventListener("drop", onDrop);
    return () => {
      window.removeEventListener("dragover", onOver);
      window.removeEventListener("dragleave", onLeave);
      window.removeEventListener("drop", onDrop);
    };
  }, [file]);

  const actions = useMemo<Action[]>(
    () => [{ name: "bring-in", label: "Bring in a sheet", key: "b", perform: () => chooser.current?.click() }],
    [],
  );
  useActions("bring-in", actions);

  return (
    <section aria-label="Bring in a sheet" className="rounded-[3px] border border-rule-strong bg-leaf p-5">
      <h2 className="title text-[19px]">Bring in a sheet</h2>
      <div
        className={`mt-3 rounded-[3px] border border-dashed px-4 py-7 text-center ${over ? "border-sent bg-chosen" : "border-pencil-stroke"}`}
      >
        {busy ? (
          <p role="status" className="text-[15px]">
            Reading {busy}…
          </p>
        ) : (
          <>
            <p className="text-[15px]">Drop a CSV, TSV or XLSX file here</p>
            <div className="mt-3 flex justify-center gap-2">
              <Button kind="act" onClick={() => chooser.current?.click()}>
                Choose a file
              </Button>
              <Button className="text-[15px]" onClick={() => setPasting(!pasting)} aria-expanded={pasting}>
                Paste cells
              </Button>
            </div>
          </>
        )}
        <input
          ref={chooser}
          type="file"
          accept=".csv,.tsv,.txt,.xlsx,.xlsm"
          className="hidden"
          aria-label="Sheet file"
          onChange={(e) => {
            void file(e.target.files?.[0]);
            e.target.value = "";
          }}
        />
      </div>
      {choice && !busy && (
        <div className="mt-3" role="group" aria-label="Which worksheet?">
          <p className="text-[15px]">{choice.file} has several worksheets. Which one?</p>
          <div className="mt-1.5 flex flex-wrap gap-2">
            {choice.names.map((name) => (
              <Button
                key={name}
                onClick={() => {
                  choice.form.set("worksheet", name);
                  void bring(choice.form, `${choice.file}, worksheet ${name}`);
                }}
              >
                {name}
              </Button>
            ))}
          </div>
        </div>
      )}
      {pasting && !busy && <Paste onPaste={(form) => void bring(form, "the pasted cells")} />}
      {trouble && (
        <p role="alert" className="mt-3 border-l-2 border-failed pl-3 text-[15px] text-failed">
          {trouble}
        </p>
      )}
      <p className="mt-4 text-ink-2">
        The first row names the columns. A column of mobile numbers is needed; names, amounts, dates and links are used
        in the wording.
      </p>
      <h3 className="label mt-4">Sample sheets to try</h3>
      <ul className="mt-1 space-y-1.5">
        {samples.data?.map((s) => (
          <li key={s.file_name}>
            <a className="font-semibold underline decoration-pencil-stroke underline-offset-3" href={`/api/samples/${s.file_name}`}>
              {s.file_name}
            </a>
            <div className="text-[13px] text-ink-2">{s.about}</div>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Paste({ onPaste }: { onPaste: (form: FormData) => void }) {
  const [cells, setCells] = useState("");
  return (
    <form
      className="mt-3"
      onSubmit={(e) => {
        e.preventDefault();
        const form = new FormData();
        form.append("file", new Blob([cells]), "pasted cells.tsv");
        onPaste(form);
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
        className="mt-1 w-full rounded-[3px] border border-rule-strong bg-leaf p-2 text-[13px] whitespace-pre"
      />
      <Button type="submit" className="mt-1" disabled={!cells.trim()}>
        Bring in the pasted cells
      </Button>
    </form>
  );
}
