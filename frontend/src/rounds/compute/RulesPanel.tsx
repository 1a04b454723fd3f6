import { useState } from "react";
import type { Desk, Rule } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { useDraft } from "../../state/useDraft.ts";
import { FormulaBox } from "./FormulaBox.tsx";
import { Line, Missing, Paper } from "./Paper.tsx";
import { rowsOf, useCondition } from "./useCondition.ts";

type Props = { desk: Desk; onSet: (rules: Rule[]) => void; onClose: () => void };

/** The rules that leave rows out: a condition, and the reason that is shown in the row. */
export default function RulesPanel({ desk, onSet, onClose }: Props) {
  const [{ when, reason }, setDraft, forget] = useDraft(`rule/${desk.uid}`, { when: "", reason: "" });
  const [begun] = useState(when);
  const [made, setMade] = useState(0);
  const rules = desk.leave_out.map(({ when: w, reason: r }) => ({ when: w, reason: r }));
  const { tried, fresh } = useCondition(desk, when);
  // In the words of the condition, unless the clerk has others.
  const proposed = fresh && !tried?.problem ? (tried?.reason ?? "") : "";
  const why = reason.trim() || proposed;
  const missing = !when.trim() ? "Write first when a row is left out." : tried?.problem ? "" : !why && !fresh ? "Its rows are still counted: once more, please." : !why ? "Say the reason: it is shown in the row." : "";
  const usable = !!when.trim() && !!why && !(fresh && tried?.problem);
  const [asked, setAsked] = useState(false);
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
            setAsked(!usable);
            if (!usable) return;
            onSet([...rules, { when, reason: why }]);
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
              problem={tried?.problem ?? null}
              focused
              onChange={(typed) => setDraft((now) => ({ ...now, when: typed }))}
            />
          </div>
          {tried && (
            <p data-testid="rule-takes" className={tried.problem || tried.unsure ? "text-held" : "text-ink-2"}>
              {tried.problem ? `${tried.problem.message} ${tried.problem.remedy}` : `It leaves out ${rowsOf(tried)}.`}
            </p>
          )}
          <Line id="rule-reason" label="The reason, shown in the row" value={reason} placeholder={proposed || "nothing to pay"} onChange={(typed) => setDraft((now) => ({ ...now, reason: typed }))} />
          <Missing what={asked ? missing : ""} />
          <div className="panel-foot">
            <Button type="submit" aria-disabled={!usable}>
              Add the rule
            </Button>
          </div>
        </form>
    </Paper>
  );
}
