import { useState } from "react";
import type { Desk, Rule } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { FormulaBox } from "./FormulaBox.tsx";

type Props = { desk: Desk; onSet: (rules: Rule[]) => void; onClose: () => void };

/** The rules that leave rows out: a condition, and the reason that is shown in the row. */
export function RulesPanel({ desk, onSet, onClose }: Props) {
  const [when, setWhen] = useState("");
  const [reason, setReason] = useState("");
  const [made, setMade] = useState(0);
  const rules = desk.leave_out.map(({ when: w, reason: r }) => ({ when: w, reason: r }));
  const usable = when.trim() && reason.trim();
  return (
    <section aria-label="Rules" className="rounded-[3px] border border-rule-strong bg-leaf">
      <header className="flex items-center border-b border-rule px-3 py-1.5">
        <h2 className="label mr-auto">Leave rows out by a rule</h2>
        <button type="button" onClick={onClose} className="text-ink-2 hover:text-ink">
          Close
        </button>
      </header>
      <div className="space-y-2 px-3 pt-2 pb-3">
        {desk.leave_out.map((rule, i) => (
          <div key={`${rule.when}/${i}`} className="flex items-baseline gap-2 border-b border-rule pb-1.5">
            <div className="min-w-0 flex-1">
              <code className="font-sans font-semibold wrap-anywhere">{rule.when}</code>
              <span className="text-ink-2"> : {rule.reason}</span>
              {rule.problem && (
                <p role="alert" className="text-failed">
                  {rule.problem.message} {rule.problem.remedy}
                </p>
              )}
            </div>
            <Button kind="link" onClick={() => onSet(rules.filter((_, j) => j !== i))}>
              Take out
            </Button>
          </div>
        ))}
        <form
          className="space-y-2"
          onSubmit={(e) => {
            e.preventDefault();
            if (!usable) return;
            onSet([...rules, { when, reason: reason.trim() }]);
            setWhen("");
            setReason("");
            setMade(made + 1);
          }}
        >
          <div>
            <div className="label mb-0.5">Leave a row out when</div>
            <FormulaBox
              label="Condition"
              hint="{Due} <= 0"
              text=""
              from={String(made)}
              columns={desk.columns}
              formula
              problem={null}
              onChange={setWhen}
            />
          </div>
          <div>
            <label className="label block" htmlFor="rule-reason">
              The reason, shown in the row
            </label>
            <input
              id="rule-reason"
              value={reason}
              maxLength={200}
              placeholder="nothing to pay"
              onChange={(e) => setReason(e.target.value)}
              className="mt-0.5 w-full rounded-[3px] border border-rule-strong bg-leaf px-2 py-1 placeholder:text-pencil"
            />
          </div>
          <Button type="submit" disabled={!usable}>
            Add the rule
          </Button>
        </form>
      </div>
    </section>
  );
}
