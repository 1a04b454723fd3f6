import { useState } from "react";
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
  const [sender, setSender] = useState(desk.sender);
  return (
    <Paper label="What is checked" title="What is checked in this round" onClose={onClose}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          onSetUp({ sender: sender.trim() });
        }}
        onBlur={() => sender.trim() !== desk.sender && onSetUp({ sender: sender.trim() })}
      >
        <Line id="sender" label="Who writes, as every text should say" value={sender} placeholder="Saltmarsh Quay" most={100} first onChange={setSender} />
      </form>
      <ul className="max-h-[46vh] overflow-auto border-y border-rule" aria-label="Checks" tabIndex={-1}>
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
