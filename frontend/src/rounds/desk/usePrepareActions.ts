import { useMemo } from "react";
import { useNavigate } from "react-router";
import { useActions, type Action, type Finder } from "../../ui/actions.tsx";
import { focusRegion } from "../../ui/focus.ts";
import { PANELS, type Panel } from "../compute/ComputeMenu.tsx";
import type { Opened } from "./OpenDialog.tsx";

type Props = {
  id: number;
  rows: Action[];
  finder: Finder;
  leftOut: boolean;
  /** The chosen row's number, as far as it is one. */
  number: string;
  panel: Panel | null;
  onLeaveOut: (leftOut: boolean) => void;
  onAddRow: () => void;
  onOpened: (opened: Opened) => void;
  onPanel: (panel: Panel) => void;
};

/** What can be done on the desk of a round that is prepared, with the keys for it. */
export function usePrepareActions({ id, rows, finder, leftOut, number, panel, onLeaveOut, onAddRow, onOpened, onPanel }: Props): void {
  const go = useNavigate();
  const own = useMemo<Action[]>(
    () => [
      ...rows,
      { name: "wording", label: "Go to the wording", keys: ["Alt w"], perform: () => void focusRegion("wording") },
      { name: "look", label: "Go to Worth a look", keys: ["Alt l"], perform: () => void focusRegion("look") },
      { name: "pace", label: "Go to the pace", keys: ["Alt p"], perform: () => void focusRegion("pace") },
      { name: "dock", label: "Go to the button that sends", keys: ["Alt d"], perform: () => void focusRegion("dock") },
      {
        name: "leave-out",
        label: leftOut ? "Take this row back" : "Leave this row out",
        keys: ["Alt x"],
        perform: () => onLeaveOut(!leftOut),
      },
      ...(number
        ? [
            {
              name: "no-more-texts",
              label: `Note that ${number} asked for no more texts`,
              perform: () => void go(`/no-more-texts?number=${encodeURIComponent(number)}`),
            },
          ]
        : []),
      { name: "checks", label: "What is checked in this round", perform: () => onPanel({ kind: "checks" }) },
      { name: "weight", label: "What the texts weigh", perform: () => onPanel({ kind: "weight" }) },
      { name: "add-wording", label: "Add a wording for some rows", perform: () => onPanel({ kind: "wording", was: null }) },
      { name: "the-look", label: "Read the texts, oddest first", keys: ["Alt e"], perform: () => void go(`/rounds/${id}/look`) },
      { name: "rehearsal", label: "Rehearse the round: to a stand-in carrier, nothing leaves this machine", perform: () => void go(`/rounds/${id}/rehearsal`) },
      { name: "add-row", label: "Add a row", keys: ["Alt a"], perform: onAddRow },
      { name: "check-numbers", label: "Check the numbers", keys: ["Alt n"], perform: () => onOpened({ kind: "numbers" }) },
      { name: "newer", label: "Bring in a newer version of the sheet", keys: ["Alt b"], perform: () => onOpened({ kind: "newer" }) },
      { name: "rounds", label: "Back to the rounds", perform: () => void go("/") },
      ...PANELS.map(({ label, key, panel: its }) => ({
        name: label,
        label,
        keys: [key],
        perform: () => {
          // What is open already and begun has the focus again.
          if (panel?.kind === its.kind && focusRegion("panel")) return;
          onPanel(its);
        },
      })),
    ],
    [id, rows, leftOut, number, panel, onLeaveOut, onAddRow, onOpened, onPanel, go],
  );
  useActions("desk", own, finder);
}
