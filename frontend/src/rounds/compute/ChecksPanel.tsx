import { useState } from "react";
import { useDraft } from "../../state/useDraft.ts";
import { useCatalogueQuery } from "../../api/catalogue.ts";
import type { CheckLevel, Desk, SetupIn } from "../../api/client.ts";
import { Line, Paper } from "./Paper.tsx";

type Props = {
  desk: Desk;
  onSet: (checks: Record<string, CheckLevel>) => void;
  onSetUp: (body: SetupIn) => void;
  onClose: () => void;
};

const LEVELS: [CheckLevel, string][] = [
  ["holds", "holds"],
  ["look", "worth a look"],
  ["off", "off"],
];

/** All that is looked at before sending, and what a finding does in this round. */
export default function ChecksPanel({ desk, onSet, onSetUp, onClose }: Props) {
  const checks = useCatalogueQuery().data?.checks ?? [];
  const [sender, setSender, forget] = useDraft(`sender/${desk.uid}`, desk.sender);
  const keep = () => {
    if (sender.trim() !== desk.sender) onSetUp({ sender: sender.trim() });
    forget();
  };
  return (
    <Paper label="What is checked" title="What is checked in this round" onClose={onClose}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          keep();
        }}
        onBlur={keep}
      >
        <Line id="sender" label="Who writes, as every text should say" value={sender} placeholder="Saltmarsh Quay" most={100} first onChange={setSender} />
      </form>
      <p className="flex flex-wrap items-center gap-x-1.5 gap-y-1 text-ink-2">
        Looked at in other rounds: any text to the same number within
        <Days label="Days back for any text" value={desk.lately_days} onSet={(lately_days) => onSetUp({ lately_days })} />
        days, the same text or reference within
        <Days label="Days back for the same text or reference" value={desk.repeat_days} onSet={(repeat_days) => onSetUp({ repeat_days })} />
        days.
      </p>
      <ul className="max-h-[42vh] overflow-auto border-y border-rule" aria-label="Checks" tabIndex={-1}>
        {checks.map((check) => {
          const id = `check-${check.key.replaceAll(" ", "-")}`;
          const usual: CheckLevel = check.level === "look" ? "look" : "holds";
          const now = desk.checks[check.key] ?? usual;
          return (
            <li key={check.key} className="flex items-baseline gap-3 border-b border-rule py-1 last:border-b-0">
              <span id={id} className="min-w-0 flex-1 txt-13.5 leading-snug">
                {check.doc}
              </span>
              {check.fixed ? (
                <span className="shrink-0 text-ink-2">always holds</span>
              ) : (
                <select
                  aria-labelledby={id}
                  value={now}
                  onChange={(e) => {
                    const others = Object.entries(desk.checks).filter(([key]) => key !== check.key);
                    const level = e.target.value as CheckLevel;
                    onSet(Object.fromEntries(level === usual ? others : [...others, [check.key, level]]));
                  }}
                  className={`shrink-0 rounded-[3px] border border-rule-strong bg-leaf px-1 py-0.5 ${now === usual ? "" : "font-semibold"}`}
                >
                  {LEVELS.map(([level, said]) => (
                    <option key={level} value={level}>
                      {said}
                    </option>
                  ))}
                </select>
              )}
            </li>
          );
        })}
      </ul>
    </Paper>
  );
}

/** A number of days that is set once the box is left. */
function Days({ label, value, onSet }: { label: string; value: number; onSet: (days: number) => void }) {
  const [typed, setTyped] = useState<string | null>(null);
  const finish = () => {
    const days = Number(typed);
    if (typed !== null && /^\d{1,4}$/.test(typed.trim()) && days !== value) onSet(days);
    setTyped(null);
  };
  return (
    <input
      inputMode="numeric"
      aria-label={label}
      value={typed ?? String(value)}
      onChange={(e) => setTyped(e.target.value)}
      onBlur={finish}
      onKeyDown={(e) => e.key === "Enter" && finish()}
      className="w-14 rounded-[3px] border border-rule-strong bg-leaf px-1.5 py-0.5 text-right text-ink tabular-nums"
    />
  );
}
