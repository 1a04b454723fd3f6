import { axisTop } from "d3-axis";
import { scaleLinear } from "d3-scale";
import { select } from "d3-selection";
import { useEffect, useRef } from "react";
import type { Forecast } from "../../api/client.ts";
import { counted, figure } from "../../ui/format.ts";

const [LEFT, RIGHT, TOP, DAY, STROKE] = [140, 96, 26, 54, 26];

/** The days of a round with their hours as fine ruling: planned texts in pencil, gone ones in ink. */
export default function ForecastStrip({ forecast, width }: { forecast: Forecast; width: number }) {
  const drawn = useRef<SVGSVGElement>(null);
  const { days, from_hour: from, to_hour: to } = forecast;
  useEffect(() => {
    if (!drawn.current) return;
    const x = scaleLinear([from, to], [LEFT, width - RIGHT]);
    const svg = select(drawn.current);
    svg.selectAll("*").remove();
    const hours = axisTop<number>(x as never)
      .tickValues(Array.from({ length: to - from + 1 }, (_, i) => from + i).filter((hour) => to - from <= 14 || hour % 2 === 0))
      .tickFormat((hour) => String(hour))
      .tickSizeInner(-DAY * days.length)
      .tickSizeOuter(0);
    svg.append("g").attr("transform", `translate(0,${TOP})`).attr("class", "hours").call(hours as never);
    const lines = svg
      .selectAll("g.day")
      .data(days)
      .join("g")
      .attr("class", "day")
      .attr("transform", (_, i) => `translate(0,${TOP + i * DAY})`);
    lines.append("line").attr("class", "under").attr("x2", width).attr("y1", DAY).attr("y2", DAY);
    lines.append("text").attr("class", "named").attr("y", 20).text((d) => d.said);
    lines.append("text").attr("class", "note").attr("y", 39).text((d) => d.note);
    lines
      .append("text")
      .attr("class", "sum")
      .attr("x", width)
      .attr("y", 20)
      .text((d) => counted(d.planned + d.gone, "text"));
    lines
      .append("text")
      .attr("class", "note end")
      .attr("x", width)
      .attr("y", 39)
      .text((d) => (d.gone > 0 && d.planned > 0 ? `${figure(d.gone)} went` : ""));
    for (const [kind, of] of [["planned", "strokes_planned"], ["gone", "strokes_gone"]] as const)
      lines
        .selectAll(`line.${kind}`)
        .data((d) => d[of])
        .join("line")
        .attr("class", kind)
        .attr("x1", (minute) => x(minute / 60))
        .attr("x2", (minute) => x(minute / 60))
        .attr("y1", DAY - STROKE - 8)
        .attr("y2", DAY - 8);
  }, [days, from, to, width]);
  return <svg ref={drawn} aria-hidden="true" className="forecast" width={width} height={TOP + DAY * days.length + 1} />;
}
