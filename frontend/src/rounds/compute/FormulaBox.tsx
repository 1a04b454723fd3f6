import { EditorState } from "@codemirror/state";
import { EditorView } from "@codemirror/view";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useCatalogueQuery } from "../../api/catalogue.ts";
import { api, told, type ColumnOut, type Place } from "../../api/client.ts";
import { setColumns, setFields } from "../wording/editor.ts";
import { formulaEditor, setProblem } from "./formulaEditor.ts";

type Props = {
  roundId: number;
  label: string;
  hint: string;
  /** What the box holds at first, and again whenever `from` changes. */
  text: string;
  from: string;
  columns: ColumnOut[];
  /** Whether it holds a formula, whose functions are completed, or a link's template, which has none. */
  formula: boolean;
  problem: Place | null;
  focused?: boolean;
  onChange: (text: string) => void;
};

/** A writing box for a formula or a link: fields as tokens, functions completed with their words, the wrong place underlined. */
export function FormulaBox({ roundId, label, hint, text, from, columns, formula, problem, focused, onChange }: Props) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const listener = useRef(onChange);
  useEffect(() => {
    listener.current = onChange;
  }, [onChange]);
  const [shown, setShown] = useState(text);
  const [begun, setBegun] = useState(from);
  if (begun !== from) {
    setBegun(from);
    setShown(text);
  }
  const where = formula ? "formula" : "link";
  const said = useQuery({
    queryKey: ["fields", roundId, where, shown, columns],
    queryFn: ({ signal }) =>
      told(
        api.POST("/api/rounds/{round_id}/columns/fields", {
          signal,
          params: { path: { round_id: roundId } },
          body: { text: shown, where },
        }),
      ),
    enabled: shown.includes("{"),
    gcTime: 10_000,
  });
  const functions = useCatalogueQuery().data?.functions;

  useEffect(() => {
    if (!host.current || !functions) return undefined;
    const made = new EditorView({
      parent: host.current,
      state: EditorState.create({
        doc: text,
        extensions: formulaEditor(formula ? functions : [], label, hint, !!focused, (now) => {
          setShown(now);
          listener.current(now);
        }),
      }),
    });
    made.dispatch({ effects: setColumns.of(columns), selection: { anchor: made.state.doc.length } });
    view.current = made;
    if (focused) made.focus();
    return () => made.destroy();
    // Made anew only when what it begins with is another; what was typed since then is kept.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [from, functions, formula]);

  useEffect(() => {
    view.current?.dispatch({ effects: setColumns.of(columns) });
  }, [columns]);
  useEffect(() => {
    if (said.data) view.current?.dispatch({ effects: setFields.of({ text: shown, fields: said.data }) });
  }, [said.data, shown, from, functions]);
  useEffect(() => {
    view.current?.dispatch({ effects: setProblem.of(problem) });
  }, [problem]);
  return <div ref={host} className="formula rounded-[3px] border border-rule-strong bg-leaf" />;
}
