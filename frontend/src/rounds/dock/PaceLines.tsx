import { useEffect, useLayoutEffect, useRef, type ReactNode } from "react";
import type { Desk, Hours, Pace, Weekday } from "../../api/client.ts";
import { firstIn } from "../../ui/focus.ts";
import { Gap } from "./Gap.tsx";
import { ChoiceValue, ManyValue, NumberValue, TextValue } from "./Pressed.tsx";
import { dayRange, momentOfOffice, orderSaid, timeSaid } from "./pace.ts";
import { useHolidayPlaces } from "./useForecast.ts";

type Props = { desk: Desk; onChange: (part: Partial<Pace>) => void };

const WEEK: Weekday[] = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];
const WORKING: Hours = { from: "09:00", to: "17:00", days: WEEK.slice(0, 5), where: "recipient", holidays: null };

/** All that a pace can say, a line each; what is not asked for is offered. */
export function PaceLines({ desk, onChange }: Props) {
  const { pace } = desk;
  const started = desk.stage !== "preparing";
  const columns = desk.columns.map(({ name }) => ({ value: name, name }));
  return (
    <div className="grid grid-cols-[3.4rem_1fr] items-baseline gap-y-1 leading-6">
      <Line name="Gap">
        <Gap pace={pace} onChange={onChange} />
      </Line>
      <Line name="Rest">
        {pace.after > 0 ? (
          <>
            After{" "}
            <NumberValue label="Texts before a rest" about="So many texts leave, and then none for a while." value={pace.after} least={1} most={10_000} whole onChange={(after) => onChange({ after })} /> a
            rest of{" "}
            <NumberValue label="Minutes of rest" about="Up to a day." value={pace.rest / 60} least={0.1} most={1440} unit="min" onChange={(minutes) => onChange({ rest: Math.round(minutes * 60) })} />
            <Without what="the rest" onPress={() => onChange({ after: 0 })} />
          </>
        ) : (
          <Add onPress={() => onChange({ after: 20, rest: 300 })}>a rest after some texts</Add>
        )}
      </Line>
      <CapLine pace={pace} onChange={onChange} />
      <HoursLine desk={desk} onChange={onChange} />
      <Line name="Begin">
        {pace.start ? (
          <>
            <TextValue
              label="The round begins"
              about={started ? "By the clocks where the office is." : "By the clocks where the office is. Until then nothing leaves, and it can be taken back."}
              type="datetime-local"
              shown={momentOfOffice(pace.start)}
              value={pace.start.slice(0, 16)}
              onChange={(start) => onChange({ start: `${start}:00` })}
            />
            <Without what="the later beginning" onPress={() => onChange({ start: null })} />
          </>
        ) : (
          <Add onPress={() => onChange({ start: tomorrowAtNine() })}>a day and time to begin</Add>
        )}
        {!started && (pace.at ? <OwnMoments desk={desk} columns={columns} onChange={onChange} /> : <OfferMoments columns={columns} desk={desk} onChange={onChange} />)}
        {started && pace.at && (
          <span>
            , each row at its own <b>{pace.at}</b>
          </span>
        )}
      </Line>
      <Line name="Order">
        by{" "}
        {started ? (
          <b>{orderSaid(pace.order)}</b>
        ) : (
          <ChoiceValue
            label="Which leaves first"
            about="Ties stay as in the sheet; blank cells come last."
            shown={orderSaid(pace.order)}
            value={pace.order ?? ""}
            choices={[
              { value: "", name: "the sheet’s own order" },
              ...columns.flatMap(({ name }) => [
                { value: name, name: `${name}, smallest first` },
                { value: `-${name}`, name: `${name}, largest first` },
              ]),
              { value: "shuffled", name: "no order: shuffled" },
            ]}
            onChange={(order) => onChange({ order: order || null })}
          />
        )}
      </Line>
      <Line name="Away">
        Waits up to{" "}
        <NumberValue
          label="Minutes to wait for the carrier"
          about="How long the round waits by itself for a carrier that is away, looking again and again. Then it pauses and says so; no row is lost by it."
          value={pace.patience}
          least={1}
          most={10_080}
          unit="min"
          onChange={(patience) => onChange({ patience })}
        />{" "}
        for a carrier that is away
      </Line>
    </div>
  );
}

function CapLine({ pace, onChange }: { pace: Pace; onChange: (part: Partial<Pace>) => void }) {
  // Two figures of one list are typed faster than the program answers: the second one goes beside the first.
  const asked = useRef(pace.per_day);
  useEffect(() => {
    asked.current = pace.per_day;
  }, [pace.per_day]);
  const ask = (change: (of: number[]) => number[]) => {
    asked.current = change(asked.current);
    onChange({ per_day: asked.current });
  };
  const last = pace.per_day.at(-1);
  if (last === undefined)
    return (
      <Line name="Cap">
        <Add onPress={() => onChange({ per_day: [50, 300] })}>a cap of texts a day</Add>
      </Line>
    );
  const first = pace.per_day.slice(0, -1);
  return (
    <Line name="Cap">
      At most{" "}
      <NumberValue label="Texts a day" about="Counted over all rounds, and by the days where the office is." value={last} least={1} most={1_000_000} unit="a day" whole onChange={(most) => ask((of) => [...of.slice(0, -1), most])} />
      {first.length > 0 && ", "}
      {first.length > 0 && (
        <TextValue
          label="Texts on the first days of a number"
          about="One figure a day on which the number is in use, with commas between them: 50, 100, 200. Carriers expect little of a new sender. Blank for no such days."
          type="text"
          shown={first.join(", ")}
          value={first.join(", ")}
          fits={(typed) => typed.trim() === "" || (/^\s*\d+(\s*,\s*\d+)*\s*$/.test(typed) && typed.split(",").every((n) => Number(n) >= 1))}
          onChange={(typed) => ask((of) => [...typed.split(",").filter((n) => n.trim()).map(Number), of.at(-1) ?? last])}
        />
      )}
      {first.length === 1 && " on the first day of a number"}
      {first.length > 1 && " on the first days of a number"}
      {first.length === 0 && " "}
      {first.length === 0 && <Add onPress={() => ask(([most = last]) => [Math.min(50, most), most])}>fewer on the first day of a number</Add>}
      <Without what="the cap" onPress={() => ask(() => [])} />
    </Line>
  );
}

function HoursLine({ desk, onChange }: Props) {
  const { hours } = desk.pace;
  const places = useHolidayPlaces(desk.id, !!hours).data ?? [];
  if (!hours)
    return (
      <Line name="Hours">
        <Add onPress={() => onChange({ hours: WORKING })}>hours within which texts may leave</Add>
      </Line>
    );
  const change = (part: Partial<Hours>) => onChange({ hours: { ...hours, ...part } });
  const kept = places.find(({ code }) => code === hours.holidays)?.name ?? hours.holidays;
  return (
    <Line name="Hours">
      <TextValue label="Texts leave from" type="time" shown={timeSaid(hours.from)} value={hours.from} fits={(typed) => typed !== "" && typed < hours.to} onChange={(from) => change({ from })} /> to{" "}
      <TextValue label="and not from this time on" type="time" shown={timeSaid(hours.to)} value={hours.to} fits={(typed) => typed > hours.from} onChange={(to) => change({ to })} />,{" "}
      <ManyValue label="Days of the week" shown={dayRange(hours.days, WEEK)} values={hours.days} choices={WEEK} onChange={(days) => change({ days })} />, where{" "}
      <ChoiceValue
        label="Whose clocks"
        about="Where a number can be in several time zones, it must be within the hours in all of them."
        shown={`the ${hours.where}`}
        value={hours.where}
        choices={[
          { value: "recipient", name: "the recipient’s" },
          { value: "office", name: "the office’s" },
        ]}
        onChange={(where) => change({ where: where as Hours["where"] })}
      />{" "}
      is
      {hours.where === "recipient" && desk.stage === "preparing" && (
        <>
          {" "}
          by{" "}
          <ChoiceValue
            label="The recipient’s time zone"
            about="A number that can be in several zones must be within the hours in all of them, unless its row names one, such as America/Halifax."
            shown={desk.pace.zone ?? "the number"}
            value={desk.pace.zone ?? ""}
            choices={[{ value: "", name: "the number tells it" }, ...desk.columns.map(({ name }) => ({ value: name, name: `the column ${name}` }))]}
            onChange={(zone) => onChange({ zone: zone || null })}
          />
        </>
      )}
      ;{" "}
      <ChoiceValue
        label="Public holidays"
        shown={hours.holidays ? `${kept}’s holidays` : "no holidays"}
        value={hours.holidays ?? ""}
        choices={[{ value: "", name: "none are kept" }, ...places.map(({ code, name }) => ({ value: code, name }))]}
        onChange={(code) => change({ holidays: code || null })}
      />{" "}
      kept
      <Without what="the hours" onPress={() => onChange({ hours: null })} />
    </Line>
  );
}

type MomentsProps = Props & { columns: { value: string; name: string }[] };

/** Each row at a moment of its own, from a column. */
function OwnMoments({ desk, columns, onChange }: MomentsProps) {
  const { pace } = desk;
  return (
    <span>
      , each row not before its own{" "}
      <ChoiceValue label="Column of moments" about="Days, or days with a time. A day alone means the start of the hours that day." shown={pace.at ?? ""} value={pace.at ?? ""} choices={columns} onChange={(at) => onChange({ at })} />
      <Without what="own moments" onPress={() => onChange({ at: null, late: null })} />
      {pace.late === null || pace.late === undefined ? (
        <Add onPress={() => onChange({ late: 120 })}>left out when late</Add>
      ) : (
        <>
          left out when late by{" "}
          <NumberValue label="Minutes after its moment" about="A row that could not leave by then is left out instead, with that reason." value={pace.late} least={0} most={527_040} unit="min" onChange={(late) => onChange({ late })} />
          <Without what="being left out" onPress={() => onChange({ late: null })} />
        </>
      )}
    </span>
  );
}

function OfferMoments({ columns, desk, onChange }: MomentsProps) {
  const days = desk.columns.find(({ role }) => role === "date");
  const first = days?.name ?? columns[0]?.value;
  return first ? (
    <>
      , or <Add onPress={() => onChange({ at: first })}>each row at its own moment</Add>
    </>
  ) : null;
}

/** A line of the pace. What is pressed in it may make way for something else: the hand stays in the line. */
function Line({ name, children }: { name: string; children: ReactNode }) {
  const line = useRef<HTMLDivElement>(null);
  const held = useRef(false);
  useLayoutEffect(() => {
    const lost = document.activeElement === null || document.activeElement === document.body;
    if (held.current && lost && line.current) firstIn(line.current)?.focus();
  });
  return (
    <>
      <span className="txt-13 font-semibold text-ink-2">{name}</span>
      <div
        ref={line}
        onFocus={() => {
          held.current = true;
        }}
        onBlur={(e) => {
          // What is taken away gives the hand to nobody.
          if (e.relatedTarget) held.current = false;
        }}
      >
        {children}
      </div>
    </>
  );
}

const Add = ({ children, onPress }: { children: ReactNode; onPress: () => void }) => (
  <button type="button" onClick={onPress} className="text-ink-2 underline decoration-pencil-stroke decoration-dotted underline-offset-4 hover:text-ink">
    + {children}
  </button>
);

const Without = ({ what, onPress }: { what: string; onPress: () => void }) => (
  <button type="button" onClick={onPress} aria-label={`Do without ${what}`} title={`Do without ${what}`} className="ml-1.5 inline-block min-h-[24px] min-w-[24px] rounded-[3px] text-center text-ink-2 hover:bg-dock hover:text-ink">
    ×
  </button>
);

/** Tomorrow at nine, as a moment without an offset. */
function tomorrowAtNine(): string {
  const day = new Date(Date.now() + 86_400_000);
  const two = (n: number) => String(n).padStart(2, "0");
  return `${day.getFullYear()}-${two(day.getMonth() + 1)}-${two(day.getDate())}T09:00:00`;
}
