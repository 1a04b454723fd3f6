import { useState } from "react";
import type { Desk, Rule } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { useDraft } from "../../state/useDraft.ts";
import { FormulaBox } from "./FormulaBox.tsx";
import { Line, Paper } from "./Paper.tsx";

type Props = { desk: Desk; onSet: (rules: Rule[]) => void; onClose: () => void };

/** The rules that leave rows out: a condition, and the reason that is shown in the row. */
export default function RulesPanel({ desk, onSet, onClose }: Props) {
  const [{ when, reason }, setDraft, forget] = useDraft(`rule/${desk.uid}`, { when: "", reason: "" });
  const [begun] = useState(when);
  const [made, setMade] = useState(0);
  const rules = desk.leave_out.map(({ when: w, reason: r }) => ({ when: w, reason: r }));
  const usable = when.trim() && reason.trim();
  return (
    <Paper label="Rules" title="Leave rows out by a rule" onClose={onClose}>
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
              Remove
            </Button>
          </div>
        ))}
        <form
          className="space-y-2"
          onSubmit={(e) => {
            e.preventDefault();
            if (!usable) return;
            onSet([...rules, { when, reason: reason.trim() }]);
            setDraft({ when: "", reason: "" });
            forget();
            setMade(made + 1);
          }}
        >
          <div>
            <div className="label mb-0.5">Leave a row out when</div>
            <FormulaBox
              roundId={desk.id}
              label="Condition"
              hint="{Due} <= 0"
              text={made ? "" : begun}
              from={String(made)}
              columns={desk.columns}
              formula
              problem={null}
              focused
              onChange={(typed) => setDraft((now) => ({ ...now, when: typed }))}
            />
          </div>
          <Line id="rule-reason" label="The reason, shown in the row" value={reason} placeholder="nothing to pay" onChange={(typed) => setDraft((now) => ({ ...now, reason: typed }))} />
          <div className="panel-foot">
            <Button type="submit" disabled={!usable}>
              Add the rule
            </Button>
          </div>
        </form>
    </Paper>
  );
}
