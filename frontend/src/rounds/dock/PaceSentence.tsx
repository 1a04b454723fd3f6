import { useEffect, useRef, useState } from "react";
import type { Pace } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { useNotices } from "../../ui/notices.tsx";
import { Popover } from "../../ui/Popover.tsx";

type Props = { pace: Pace; onChange: (pace: Pace) => void };

/** The pace as a sentence; its values are pressed to change them. */
export function PaceSentence({ pace, onChange }: Props) {
  const notices = useNotices();
  // The next value may be set before the program has answered the last one: each is set upon what was set last.
  const set = useRef(pace);
  useEffect(() => {
    set.current = pace;
  }, [pace]);
  const change = (part: Partial<Pace>) => {
    set.current = { ...set.current, ...part };
    onChange(set.current);
  };
  return (
    <p className="title txt-18 leading-tight">
      One text every{" "}
      <Value
        label="Seconds between two texts"
        about="From 0.1 to 3,600 seconds."
        value={pace.every}
        least={0.1}
        onChange={(every) => {
          const before = set.current.give_or_take;
          const give_or_take = Math.min(before, every);
          change({ every, give_or_take });
          if (give_or_take !== before)
            notices.done(`“Give or take” is ${give_or_take} s now, and was ${before} s: it is never more than the gap. Undo takes both back.`);
        }}
      />
      , give or take{" "}
      <Value
        label="Seconds give or take"
        about="Drawn anew for each text, so that the gaps are not as regular as a machine's. At most the gap itself."
        value={pace.give_or_take}
        least={0}
        onChange={(give_or_take) => change({ give_or_take })}
      />
      <span className="font-sans txt-14 font-normal text-ink-2">
        {" "}
        · waits up to{" "}
        <Value
          label="Minutes to wait for the carrier"
          about="How long the round waits by itself for a carrier that is away, looking again and again. Then it pauses and says so; no row is lost by it."
          value={pace.patience}
          least={1}
          most={10080}
          unit="min"
          onChange={(patience) => change({ patience })}
        />{" "}
        for a carrier that is away
      </span>
    </p>
  );
}

type ValueProps = {
  label: string;
  about: string;
  value: number;
  least: number;
  most?: number;
  unit?: string;
  onChange: (n: number) => void;
};

function Value({ label, about, value, least, most = 3600, unit = "s", onChange }: ValueProps) {
  const shown = `${Number(value.toFixed(1))} ${unit}`;
  const [open, setOpen] = useState(false);
  const [typed, setTyped] = useState("");
  const entered = Number(typed.replace(",", "."));
  const fits = typed.trim() !== "" && entered >= least && entered <= most;
  return (
    <Popover
      side="top"
      label={label}
      open={open}
      onOpenChange={(now) => {
        setTyped(String(value));
        setOpen(now);
      }}
      trigger={
        <button type="button" aria-label={`${label}: ${shown}`} className="underline decoration-2 underline-offset-4 hover:text-sent">
          {shown}
        </button>
      }
    >
      <form
        onSubmit={(e) => {
          e.preventDefault();
          if (!fits) return;
          onChange(entered);
          setOpen(false);
        }}
      >
        <label className="label block" htmlFor="pace-value">
          {label}
        </label>
        <div className="mt-1 flex gap-2">
          <input
            id="pace-value"
            inputMode="decimal"
            data-first
            value={typed}
            onChange={(e) => setTyped(e.target.value)}
            onFocus={(e) => e.target.select()}
            aria-invalid={!fits}
            className="w-24 rounded-[3px] border border-rule-strong bg-leaf px-2 py-1 txt-15"
          />
          <Button type="submit" disabled={!fits}>
            Set
          </Button>
        </div>
        <p className="mt-2 txt-13 text-ink-2">{about}</p>
      </form>
    </Popover>
  );
}
