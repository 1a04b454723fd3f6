import type { ComputedIn, Desk, SetupIn } from "../../api/client.ts";
import { CombinePanel } from "./CombinePanel.tsx";
import type { Panel } from "./ComputeMenu.tsx";
import { ComputePanel } from "./ComputePanel.tsx";
import { RulesPanel } from "./RulesPanel.tsx";
import { TablesPanel } from "./TablesPanel.tsx";

type Props = {
  panel: Panel | null;
  desk: Desk;
  row: number;
  onRow: (row: number) => void;
  onPut: (body: ComputedIn) => void;
  onRemove: (name: string) => void;
  onSetup: (setup: SetupIn) => void;
  onClose: () => void;
};

/** The sheet of paper that lies over the wording while something is computed. */
export function PanelPaper({ panel, desk, row, onRow, onPut, onRemove, onSetup, onClose }: Props) {
  if (!panel) return null;
  if (panel.kind === "tables") return <TablesPanel desk={desk} onSet={(lookups) => onSetup({ lookups })} onClose={onClose} />;
  if (panel.kind === "rules") return <RulesPanel desk={desk} onSet={(leave_out) => onSetup({ leave_out })} onClose={onClose} />;
  if (panel.kind === "combine") return <CombinePanel desk={desk} onSet={(combine) => onSetup({ combine })} onClose={onClose} />;
  return (
    <ComputePanel
      key={`${panel.kind}/${panel.was}`}
      desk={desk}
      was={panel.was}
      link={panel.kind === "link"}
      row={row}
      onRow={onRow}
      onPut={onPut}
      onRemove={onRemove}
      onClose={onClose}
    />
  );
}
