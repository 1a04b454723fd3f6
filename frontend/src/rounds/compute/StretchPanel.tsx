import { useState } from "react";
import type { Desk } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { useDraft } from "../../state/useDraft.ts";
import type { Commands } from "../desk/useCommands.ts";
import { FormulaBox } from "./FormulaBox.tsx";
import { Line, Paper } from "./Paper.tsx";

type Props = {
  desk: Desk;
  of: string | null;
  before: string;
  stretch: string;
  commands: Commands;
  onDone: () => void;
  onClose: () => void;
};

/** Marked words that are for some rows only: when they stand in the text, and what their column is called. */
export default function StretchPanel({ desk, of, before, stretch, commands, onDone, onClose }: Props) {
  const [{ when, name }, setDraft, forget] = useDraft(`stretch/${desk.uid}/${stretch}`, { when: "", name: "" });
  const [begun] = useState(when);
  return (
    <Paper label="Words for some rows" title="Words for some rows only" onClose={onClose}>
      <form
        className="space-y-2"
        onSubmit={(e) => {
          e.preventDefault();
          if (!when.trim()) return;
          commands.makeStretch({ of, before, stretch, when: when.trim(), name }, () => {
            forget();
            onDone();
          });
        }}
      >
        <blockquote className="border-l-2 border-rule-strong pl-2 wrap-anywhere whitespace-pre-wrap">{stretch.trim()}</blockquote>
        <div>
          <div className="label mb-0.5">stand in the text where</div>
          <FormulaBox
            roundId={desk.id}
            label="When the words stand in the text"
            hint="{Days late} > 0"
            text={begun}
            from="stretch"
            columns={desk.columns}
            formula
            focused
            problem={null}
            onChange={(typed) => setDraft((now) => ({ ...now, when: typed }))}
          />
        </div>
        <Line id="stretch-name" label="Their column is called" value={name} placeholder="Extra words" onChange={(typed) => setDraft((now) => ({ ...now, name: typed }))} />
        <p className="text-ink-2">They become a computed column, whose formula can be changed. Where they do not apply, nothing is left of them.</p>
        <div className="panel-foot">
          <Button type="submit" disabled={!when.trim()}>
            Make it so
          </Button>
        </div>
      </form>
    </Paper>
  );
}
