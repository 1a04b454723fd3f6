import { useState } from "react";
import type { Desk } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { useDraft } from "../../state/useDraft.ts";
import type { Commands } from "../desk/useCommands.ts";
import { REST } from "../wording/rest.ts";
import { FormulaBox } from "./FormulaBox.tsx";
import { Line, Missing, Paper } from "./Paper.tsx";
import { rowsOf, useCondition } from "./useCondition.ts";

type Props = {
  desk: Desk;
  /** The wording that is changed; null for a new one. */
  was: string | null;
  commands: Commands;
  onChosen: (name: string | null) => void;
  onClose: () => void;
};

type Draft = { name: string; when: string; from: string | null };

/** A wording for some rows: its name and its condition, and where it stands among the others. */
export default function WordingPanel({ desk, was, commands, onChosen, onClose }: Props) {
  const others = desk.wordings.filter((each) => each.name !== null).map((each) => each.name ?? "");
  const found = desk.wordings.find((each) => each.name === was && was !== null);
  const [{ name, when, from }, setDraft, forget] = useDraft<Draft>(`wording for some/${desk.uid}/${was ?? ""}`, { name: was ?? "", when: found?.when ?? "", from: REST });
  const [first] = useState(when);
  const setFrom = (one: string | null) => setDraft((now) => ({ ...now, from: one }));
  const usable = name.trim() !== "" && when.trim() !== "";
  const { tried } = useCondition(desk, when);
  const [asked, setAsked] = useState(false);
  const missing = !name.trim() ? "Give the wording a name first." : !when.trim() ? "Write for which rows it is first." : "";
  const begun = when !== (found?.when ?? "") || name !== (was ?? "");
  const at = was === null ? -1 : others.indexOf(was);
  const moved = (by: -1 | 1) => {
    const names = others.filter((other) => other !== was);
    names.splice(at + by, 0, was ?? "");
    commands.orderWordings(names);
  };
  return (
    <Paper label="Wording for some rows" title={was === null ? "Another wording for some rows" : `The wording “${was}”`} onClose={onClose}>
      <form
        className="space-y-2"
        onSubmit={(e) => {
          e.preventDefault();
          setAsked(!usable);
          if (!usable) return;
          const begins = desk.wordings.find((each) => (each.name ?? REST) === from)?.text ?? "";
          commands.putWording({ name: name.trim(), when: when.trim(), was, text: was === null ? begins : "" }, () => {
            forget();
            onChosen(name.trim().replace(/\s+/g, " "));
          });
        }}
      >
        <Line id="wording-name" label="What it is called" value={name} placeholder="Final reminder" most={100} first onChange={(typed) => setDraft((now) => ({ ...now, name: typed }))} />
        <div>
          <div className="label mb-0.5">For the rows where</div>
          <FormulaBox
            roundId={desk.id}
            label="Condition of the wording"
            hint="{Days late} > 30"
            text={first}
            from={was ?? ""}
            columns={desk.columns}
            formula
            problem={found && when === found.when ? found.when_problem : null}
            onChange={(typed) => setDraft((now) => ({ ...now, when: typed }))}
          />
        </div>
        {tried && !tried.problem && <p className={tried.unsure ? "text-held" : "text-ink-2"}>True in {rowsOf(tried)}.</p>}
        {was === null && (
          <fieldset className="flex flex-wrap gap-x-4">
            <legend className="label">Its words begin as</legend>
            {[...desk.wordings.map((each) => each.name ?? REST), null].map((one) => (
              <label key={one ?? ""} className="flex items-center gap-1.5">
                <input type="radio" name="begins" checked={from === one} onChange={() => setFrom(one)} />
                {one === null ? "nothing" : `those of ${one}`}
              </label>
            ))}
          </fieldset>
        )}
        <p className="text-ink-2">
          Each row reads the first wording whose condition is true for it; the rest have the {REST}.
        </p>
        <Missing what={asked ? missing : ""} />
        <div className="panel-foot">
          <Button type="submit" aria-disabled={!usable} disabled={was !== null && !begun}>
            {was === null ? "Add the wording" : "Keep"}
          </Button>
          {was !== null && (
            <>
              {at > 0 && (
                <Button kind="link" onClick={() => moved(-1)}>
                  Try it earlier
                </Button>
              )}
              {at >= 0 && at < others.length - 1 && (
                <Button kind="link" onClick={() => moved(1)}>
                  Try it later
                </Button>
              )}
              <Button
                kind="link"
                className="ml-auto"
                onClick={() => commands.removeWording(was, () => onChosen(null))}
              >
                Remove
              </Button>
            </>
          )}
        </div>
      </form>
    </Paper>
  );
}
