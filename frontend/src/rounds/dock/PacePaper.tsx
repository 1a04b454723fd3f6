import { lazy, Suspense, useEffect, useRef, useState } from "react";
import type { Desk, Forecast, Pace } from "../../api/client.ts";
import { counted, figure } from "../../ui/format.ts";
import { PaceLines } from "./PaceLines.tsx";
import { useRowForecast } from "./useForecast.ts";

const ForecastStrip = lazy(() => import("./ForecastStrip.tsx"));

type Props = {
  desk: Desk;
  forecast: Forecast | undefined;
  /** The row that is shown on the slip. */
  row: number;
  /** Whether the forecast is that of an earlier pace. */
  stale: boolean;
  onChange: (part: Partial<Pace>) => void;
};

/** The pace with all that it says, and beside it when the texts leave by it. */
export function PacePaper({ desk, forecast, row, stale, onChange }: Props) {
  const about = useRowForecast(desk.id, row, `${desk.version}`).data;
  return (
    <div className="grid gap-x-0 gap-y-4 lg:grid-cols-[minmax(0,1fr)_minmax(0,1.9fr)]">
      <div className="pr-4">
        <h2 className="title txt-20">The pace</h2>
        <div className="mt-2">
          <PaceLines desk={desk} onChange={onChange} />
        </div>
        {forecast?.doubts.map((doubt) => (
          <p key={doubt} role="alert" className="mt-2 text-held">
            {doubt}
          </p>
        ))}
      </div>
      <div className={`min-w-0 border-rule-strong lg:border-l lg:pl-4 ${stale ? "opacity-60" : ""}`} aria-busy={stale}>
        {forecast ? <Drawn forecast={forecast} /> : <p className="text-ink-2">Working out when each text leaves…</p>}
        {about && (
          <p className="mt-3">
            Row {figure(about.row)}
            {about.label && `, ${about.label}`}: <b>{about.when || "will not leave"}</b>
            {about.why && <span className="text-ink-2"> {about.when ? `not sooner because of ${about.why}` : `because ${about.why}`}</span>}
          </p>
        )}
      </div>
    </div>
  );
}

function Drawn({ forecast }: { forecast: Forecast }) {
  const frame = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  useEffect(() => {
    if (!frame.current) return;
    const watching = new ResizeObserver(([entry]) => setWidth(Math.floor(entry?.contentRect.width ?? 0)));
    watching.observe(frame.current);
    return () => watching.disconnect();
  }, []);
  const each = forecast.texts_a_stroke;
  return (
    <>
      <p>
        <b>Forecast</b>
        <span className="ml-2 text-ink-2">
          {each === 1 ? "each stroke is a text" : `each stroke is ${figure(each)} texts`}
          {forecast.held_up_by && `; held up most by ${forecast.held_up_by}`}; clocks of {forecast.office}
        </span>
      </p>
      <div ref={frame} className="mt-1 max-h-[46vh] overflow-y-auto">
        {width > 0 && (
          <Suspense fallback={null}>
            <ForecastStrip forecast={forecast} width={width} />
          </Suspense>
        )}
      </div>
      {forecast.more_days > 0 && <p className="mt-1 text-ink-2">and {counted(forecast.more_days, "more day")}</p>}
      <table className="sr-only">
        <caption>When the texts leave</caption>
        <thead>
          <tr>
            <th scope="col">Day</th>
            <th scope="col">Planned</th>
            <th scope="col">Went</th>
          </tr>
        </thead>
        <tbody>
          {forecast.days.map((day) => (
            <tr key={day.day}>
              <th scope="row">
                {day.said}
                {day.note && `, ${day.note}`}
              </th>
              <td>{day.planned}</td>
              <td>{day.gone}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
