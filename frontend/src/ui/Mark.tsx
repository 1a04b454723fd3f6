/** The small drawn stroke of each mark, and its ink. A mark is always a word with its stroke, never colour alone. */
const LOOKS: Record<string, { ink: string; draw: string; dash?: string }> = {
  Ready: { ink: "text-pencil", draw: "M8 2.5V13.5", dash: "2.2 2.2" },
  "To go": { ink: "text-pencil", draw: "M8 2.5V13.5", dash: "2.2 2.2" },
  Held: { ink: "text-held", draw: "M5.6 4V12M10.4 4V12" },
  "Left out": { ink: "text-pencil", draw: "M3.5 8H12.5" },
  Going: { ink: "text-ink", draw: "M8 8.5V13.5" },
  Sent: { ink: "text-sent", draw: "M8 2.5V13.5" },
  Failed: { ink: "text-failed", draw: "M8 2.5V13.5M3.5 10.5 12.5 5.5" },
  Unsure: { ink: "text-held", draw: "M8 2.5C5 5.2 11 7.4 8 9.2S5.6 12 8 13.6" },
};

export const inkOf = (mark: string): string => LOOKS[mark]?.ink ?? "text-ink";

export function MarkStroke({ mark }: { mark: string }) {
  const look = LOOKS[mark];
  return (
    <svg viewBox="0 0 16 16" className="size-4 shrink-0" aria-hidden="true">
      <path
        d={look?.draw}
        fill="none"
        stroke="currentColor"
        strokeWidth={mark === "Held" ? 2.4 : 2}
        strokeLinecap={look?.dash ? "butt" : "round"}
        strokeDasharray={look?.dash}
      />
    </svg>
  );
}

export function MarkWord({ mark, children }: { mark: string; children?: string | undefined }) {
  return (
    <span className={`inline-flex items-center gap-1 ${inkOf(mark)}`}>
      <MarkStroke mark={mark} />
      <span className="truncate">{children ?? mark}</span>
    </span>
  );
}
