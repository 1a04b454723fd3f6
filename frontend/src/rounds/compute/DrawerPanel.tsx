import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, sentenceOf, told, type Desk, type DrawerWording } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { useNotices } from "../../ui/notices.tsx";
import { useDraft } from "../../state/useDraft.ts";
import type { Commands } from "../desk/useCommands.ts";
import { Line, Paper } from "./Paper.tsx";

type Props = { desk: Desk; of: string | null; commands: Commands; onTaken: () => void; onClose: () => void };

/** Wordings kept for other rounds: one is taken out into this round, and this round's can be kept. */
export default function DrawerPanel({ desk, of, commands, onTaken, onClose }: Props) {
  const queries = useQueryClient();
  const notices = useNotices();
  const [chosen, setChosen] = useState<string | null>(null);
  const [name, setName, forget] = useDraft(`drawer/${desk.uid}`, "");
  const text = desk.wordings.find((each) => each.name === of)?.text ?? "";
  const asked = useQuery({
    queryKey: ["drawer", desk.id, desk.columns],
    queryFn: ({ signal }) => told(api.GET("/api/rounds/{round_id}/drawer", { signal, params: { path: { round_id: desk.id } } })),
    staleTime: 0,
  });
  const done = (asking: Promise<unknown>, said: string, undo?: () => void) =>
    void asking
      .then(() => {
        notices.done(said, undo);
        return queries.invalidateQueries({ queryKey: ["drawer"] });
      })
      .catch(notices.trouble);
  const keep = () => {
    done(told(api.POST("/api/drawer", { body: { name: name.trim(), text } })), `“${name.trim()}” is in the drawer.`);
    setName("");
    forget();
  };
  const remove = ({ number, name: whose }: DrawerWording) => {
    if (number === null) return;
    const path = { number };
    done(told(api.DELETE("/api/drawer/{number}", { params: { path } })), `“${whose}” is out of the drawer.`, () =>
      done(told(api.POST("/api/drawer/{number}/restore", { params: { path } })), `“${whose}” is in the drawer again.`),
    );
  };
  const rename = (number: number, to: string) =>
    done(told(api.PATCH("/api/drawer/{number}", { params: { path: { number } }, body: { name: to } })), `It is called “${to}” now.`);
  return (
    <Paper label="Drawer" title="The drawer of wordings" onClose={onClose}>
      {asked.isError && (
        <p role="alert" className="text-failed">
          {sentenceOf(asked.error)}
        </p>
      )}
      <ul aria-label="Wordings in the drawer" className="max-h-[44vh] overflow-auto border-y border-rule">
        {(asked.data ?? []).map((each, i) => (
          <li key={each.key} className="border-b border-rule py-1 last:border-b-0">
            <button
              type="button"
              data-first={i === 0 || undefined}
              aria-expanded={chosen === each.key}
              onClick={() => setChosen(chosen === each.key ? null : each.key)}
              className="flex w-full items-baseline gap-2 text-left hover:bg-chosen"
            >
              <span className="shrink-0 font-semibold">{each.name}</span>
              <span className="min-w-0 truncate text-ink-2">{each.text}</span>
            </button>
            {chosen === each.key && (
              <Taken
                key={each.key}
                wording={each}
                desk={desk}
                onTake={(columns) => commands.takeWording({ key: each.key, of, columns }, onTaken)}
                onRename={rename}
                onRemove={() => remove(each)}
              />
            )}
          </li>
        ))}
      </ul>
      <form
        className="flex items-end gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (name.trim() && text.trim()) keep();
        }}
      >
        <div className="flex-1">
          <Line id="drawer-name" label="Keep this round’s wording under the name" value={name} placeholder="Berth dues" most={100} onChange={setName} />
        </div>
        <Button type="submit" disabled={!name.trim() || !text.trim()}>
          Keep it
        </Button>
      </form>
    </Paper>
  );
}

type TakenProps = {
  wording: DrawerWording;
  desk: Desk;
  onTake: (columns: Record<string, string>) => void;
  onRename: (number: number, name: string) => void;
  onRemove: () => void;
};

/** One wording, with the columns that its fields are to be: what the sheet lacks is matched by hand. */
function Taken({ wording, desk, onTake, onRename, onRemove }: TakenProps) {
  const [columns, setColumns] = useState(() => Object.fromEntries(wording.needs.map((need) => [need.name, need.column ?? ""])));
  const [name, setName] = useState(wording.name);
  const lacking = wording.needs.filter((need) => !need.there);
  const missing = lacking.filter((need) => !columns[need.name]);
  const number = wording.number;
  return (
    <div className="space-y-2 py-1.5">
      <p className="wrap-anywhere whitespace-pre-wrap">{wording.text}</p>
      {lacking.map((need) => (
        <label key={need.name} className="flex items-center gap-2">
          <span className="text-held">This sheet has no {need.name}:</span>
          <select
            value={columns[need.name]}
            onChange={(e) => setColumns({ ...columns, [need.name]: e.target.value })}
            className="rounded-[3px] border border-rule-strong bg-leaf px-1 py-0.5"
          >
            <option value="">leave the field open</option>
            {desk.columns.map((column) => (
              <option key={column.name} value={column.name}>
                {column.name}
              </option>
            ))}
          </select>
        </label>
      ))}
      <div className="flex flex-wrap items-center gap-3">
        <Button onClick={() => onTake(Object.fromEntries(Object.entries(columns).filter(([, column]) => column)))}>Take it out</Button>
        {missing.length > 0 && <span className="text-ink-2">What is left open holds the rows until it is a column.</span>}
        {number !== null && (
          <>
            <input
              aria-label={`Another name for ${wording.name}`}
              value={name}
              maxLength={100}
              onChange={(e) => setName(e.target.value)}
              onKeyDown={(e) => e.key === "Enter" && name.trim() && onRename(number, name.trim())}
              className="w-36 rounded-[3px] border border-rule-strong bg-leaf px-2 py-0.5"
            />
            <Button kind="link" disabled={!name.trim() || name.trim() === wording.name} onClick={() => onRename(number, name.trim())}>
              Rename
            </Button>
            <Button kind="link" onClick={onRemove}>
              Remove
            </Button>
          </>
        )}
      </div>
    </div>
  );
}
