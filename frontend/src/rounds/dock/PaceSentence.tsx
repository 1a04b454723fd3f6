import { useEffect, useRef, useState } from "react";
import type { Desk, Forecast, Pace } from "../../api/client.ts";
import { useNotices } from "../../ui/notices.tsx";
import { Popover } from "../../ui/Popover.tsx";
import { useCommands } from "../desk/useCommands.ts";
import { moreSaid } from "./pace.ts";
import { PacePaper } from "./PacePaper.tsx";
import { NumberValue } from "./Pressed.tsx";
import { useForecast } from "./useForecast.ts";

type Props = { desk: Desk; forecast: Forecast | undefined; stale: boolean; row: number; onChange: (pace: Pace) => void };

/** The pace as a sentence; its values are pressed to change them, and what more it says is on the paper above it. */
export function PaceSentence({ desk, forecast, stale, row, onChange }: Props) {
  const { pace } = desk;
  const notices = useNotices();
  const [open, setOpen] = useState(false);
  // The next value may be set before the program has answered the last one: each is set upon what was set last.
  const set = useRef(pace);
  useEffect(() => {
    set.current = pace;
  }, [pace]);
  const change = (part: Partial<Pace>) => {
    const before = set.current.give_or_take;
    set.current = { ...set.current, ...part };
    onChange(set.current);
    if (part.every !== undefined && part.give_or_take !== undefined && part.give_or_take !== before)
      notices.done(`“Give or take” is ${part.give_or_take} s now, and was ${before} s: it is never more than the gap. Undo takes both back.`);
  };
  const more = moreSaid(pace);
  return (
    <p className="title txt-18 leading-tight">
      One text every{" "}
      <NumberValue
        label="Seconds between two texts"
        about="From 0.1 to 3,600 seconds."
        value={pace.every}
        least={0.1}
        unit="s"
        onChange={(every) => change({ every, give_or_take: Math.min(set.current.give_or_take, every) })}
      />
      , give or take{" "}
      <NumberValue
        label="Seconds give or take"
        about="Drawn anew for each text, so that the gaps are not as regular as a machine's. At most the gap itself."
        value={pace.give_or_take}
        least={0}
        unit="s"
        onChange={(give_or_take) => change({ give_or_take })}
      />
      ;{" "}
      <Popover
        side="top"
        label="The pace"
        width="w-[1244px]"
        open={open}
        onOpenChange={setOpen}
        trigger={
          <button type="button" className="font-semibold underline decoration-2 underline-offset-4 hover:text-sent">
            {more > 0 ? `${more} more` : "hours, caps and more"}
          </button>
        }
      >
        <PacePaper desk={desk} forecast={forecast} row={row} stale={stale} onChange={change} />
      </Popover>
    </p>
  );
}

/** The pace of a round that was started, with its paper. */
export function PaceWords({ desk }: { desk: Desk }) {
  const commands = useCommands(desk.id);
  const [open, setOpen] = useState(false);
  const asked = useForecast(desk.id, `${desk.version}`, open);
  const { every, give_or_take } = desk.pace;
  const more = moreSaid(desk.pace);
  const over = desk.stage === "finished" || desk.stage === "stopped";
  const words = `One every ${every} s, give or take ${give_or_take} s${more ? `; ${more} more` : ""}`;
  if (over) return <span>{words}</span>;
  return (
    <Popover
      label="The pace"
      width="w-[1244px]"
      open={open}
      onOpenChange={setOpen}
      trigger={
        <button type="button" className="underline decoration-pencil-stroke underline-offset-3 hover:text-ink">
          {words}
        </button>
      }
    >
      <PacePaper desk={desk} forecast={asked.data} row={desk.rows ? 1 : 0} stale={asked.isPlaceholderData} onChange={(part) => commands.setUp({ pace: { ...desk.pace, ...part } })} />
    </Popover>
  );
}
