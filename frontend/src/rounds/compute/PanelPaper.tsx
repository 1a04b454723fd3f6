import { lazy, Suspense, useLayoutEffect } from "react";
import type { Desk } from "../../api/client.ts";
import { focusSoon, hasFocus, promiseFocus } from "../../ui/focus.ts";
import { holdKeys } from "../../ui/held.ts";
import type { ColumnPanel, Panel } from "./ComputeMenu.tsx";
import type { Commands } from "../desk/useCommands.ts";

const ComputePanel = lazy(() => import("./ComputePanel.tsx"));
const CombinePanel = lazy(() => import("./CombinePanel.tsx"));
const RulesPanel = lazy(() => import("./RulesPanel.tsx"));
const TablesPanel = lazy(() => import("./TablesPanel.tsx"));
const WordingPanel = lazy(() => import("./WordingPanel.tsx"));
const StretchPanel = lazy(() => import("./StretchPanel.tsx"));
const WeightPanel = lazy(() => import("./WeightPanel.tsx"));
const DrawerPanel = lazy(() => import("./DrawerPanel.tsx"));
const ChecksPanel = lazy(() => import("./ChecksPanel.tsx"));

type Props = {
  panel: Panel | null;
  desk: Desk;
  row: number;
  onRow: (row: number) => void;
  /** Goes to a cell. */
  onCell: (row: number, column: string) => void;
  commands: Commands;
  /** Told of the column that was put in by a panel, and whether the hand has done nothing since. */
  onPut: (panel: ColumnPanel, name: string, rested: boolean) => void;
  /** Told which wording is to be written now. */
  onWording: (name: string | null) => void;
  onClose: () => void;
};

/** The sheet of paper that lies over the wording while something is computed; it is loaded when it is first opened. */
export const PanelPaper = (props: Props) => (
  <Suspense fallback={<Coming />}>
    <OpenPanel {...props} />
  </Suspense>
);

function Coming() {
  useLayoutEffect(() => {
    const [found, given] = [promiseFocus(), holdKeys(() => hasFocus("panel"))];
    return () => {
      found();
      given();
    };
  }, []);
  return null;
}

function OpenPanel({ panel, desk, row, onRow, onCell, commands, onPut, onWording, onClose }: Props) {
  if (!panel) return null;
  if (panel.kind === "tables") return <TablesPanel desk={desk} onSet={(lookups) => commands.setUp({ lookups })} onClose={onClose} />;
  if (panel.kind === "rules") return <RulesPanel desk={desk} onSet={(leave_out) => commands.setUp({ leave_out })} onClose={onClose} />;
  if (panel.kind === "combine")
    return (
      <CombinePanel
        desk={desk}
        onSet={(combine) => commands.setUp({ combine })}
        onTogether={(of, version) => commands.sayTogether(of, version, (_, rested) => rested && focusSoon("panel"))}
        onCell={onCell}
        onAskAgain={() => commands.setUp({ belong_together: [] })}
        onClose={onClose}
      />
    );
  if (panel.kind === "checks") return <ChecksPanel desk={desk} onSet={(checks) => commands.setUp({ checks })} onSetUp={commands.setUp} onClose={onClose} />;
  if (panel.kind === "weight") return <WeightPanel desk={desk} commands={commands} onClose={onClose} />;
  if (panel.kind === "drawer") {
    const taken = () => {
      onClose();
      onWording(panel.of);
    };
    return <DrawerPanel desk={desk} of={panel.of} commands={commands} onTaken={taken} onClose={onClose} />;
  }
  if (panel.kind === "wording") {
    const chosen = (name: string | null) => {
      onClose();
      onWording(name);
    };
    return <WordingPanel key={panel.was} desk={desk} was={panel.was} commands={commands} onChosen={chosen} onClose={onClose} />;
  }
  if (panel.kind === "stretch") {
    const { of, before, stretch } = panel;
    return <StretchPanel desk={desk} of={of} before={before} stretch={stretch} commands={commands} onDone={() => onWording(of)} onClose={onClose} />;
  }
  return (
    <ComputePanel
      key={`${panel.kind}/${panel.was}`}
      desk={desk}
      was={panel.was}
      link={panel.kind === "link"}
      row={row}
      onRow={onRow}
      onPut={(body, then) =>
        commands.putComputed(body, (_, rested) => {
          then();
          onPut(panel, body.name, rested);
        })
      }
      onRemove={(name, then) =>
        commands.removeComputed(name, (_, rested) => {
          then();
          onPut(panel, "", rested);
        })
      }
      onClose={onClose}
    />
  );
}
