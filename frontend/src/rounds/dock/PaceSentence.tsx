import { useState, type ReactNode } from "react";
import type { Desk, Forecast, Pace } from "../../api/client.ts";
import { counted } from "../../ui/format.ts";
import { Popover } from "../../ui/Popover.tsx";
import { useCommands } from "../desk/useCommands.ts";
import { Gap } from "./Gap.tsx";
import { moreSaid } from "./pace.ts";
import { PacePaper } from "./PacePaper.tsx";
import { useForecast } from "./useForecast.ts";
import { usePace } from "./usePace.ts";

type Props = { desk: Desk; forecast: Forecast | undefined; stale: boolean; row: number; onChange: (pace: Pace) => void };

/** The pace as a sentence; its values are pressed to change them, and what more it says is on the paper above it. */
export function PaceSentence({ desk, forecast, stale, row, onChange }: Props) {
  const [open, setOpen] = useState(false);
  const change = usePace(desk.pace, onChange);
  const more = moreSaid(desk.pace);
  return (
    <p className="title txt-18 leading-tight">
      <Gap pace={desk.pace} onChange={change} />;{" "}
      <OnPaper
        side="top"
        open={open}
        onOpen={setOpen}
        pressed={
          <button type="button" className="font-semibold underline decoration-2 underline-offset-4 hover:text-sent">
            {more > 0 ? counted(more, "more setting") : "hours, caps and more"}
          </button>
        }
      >
        <PacePaper desk={desk} forecast={forecast} row={row} stale={stale} onChange={change} />
      </OnPaper>
    </p>
  );
}

/** The pace of a round that was started, in words; while it is under way they are pressed for its paper. */
export function PaceWords({ desk, row }: { desk: Desk; row: number }) {
  const { setUp } = useCommands(desk.id);
  const [open, setOpen] = useState(false);
  const asked = useForecast(desk.id, `${desk.version}`, open);
  const change = usePace(desk.pace, (pace) => setUp({ pace }));
  const { every, give_or_take } = desk.pace;
  const more = moreSaid(desk.pace);
  const words = `One every ${every} s, give or take ${give_or_take} s${more ? `; ${counted(more, "more setting")}` : ""}`;
  if (desk.stage === "finished" || desk.stage === "stopped") return <span>{words}</span>;
  return (
    <OnPaper
      side="bottom"
      open={open}
      onOpen={setOpen}
      pressed={
        <button type="button" className="underline decoration-pencil-stroke underline-offset-3 hover:text-ink">
          {words}
        </button>
      }
    >
      <PacePaper desk={desk} forecast={asked.data} row={row} stale={asked.isPlaceholderData} onChange={change} />
    </OnPaper>
  );
}

type PaperProps = { side: "top" | "bottom"; open: boolean; onOpen: (open: boolean) => void; pressed: ReactNode; children: ReactNode };

const OnPaper = ({ side, open, onOpen, pressed, children }: PaperProps) => (
  <Popover side={side} label="The pace" width="w-[1244px]" open={open} onOpenChange={onOpen} trigger={pressed}>
    {children}
  </Popover>
);
