/** One pen stroke a row, in fives with the fifth across: pencil for what is to go, ink for sent, red for failed. */

const INK: Record<string, { className: string; dash?: string; from?: number }> = {
  t: { className: "stroke-pencil-stroke", dash: "3 2.4" },
  g: { className: "stroke-ink", from: 0.5 },
  s: { className: "stroke-sent" },
  f: { className: "stroke-failed" },
  u: { className: "stroke-held", dash: "6 2 1 2" },
};

export function Strokes({ strokes, label, done, small = strokes.length > 260 }: { strokes: string; label: string; done: number; small?: boolean }) {
  const fives: string[] = [];
  for (let i = 0; i < strokes.length; i += 5) fives.push(strokes.slice(i, i + 5));
  const [width, height] = small ? [24, 18] : [38, 28];
  return (
    <div
      role="progressbar"
      aria-label={label}
      aria-valuemin={0}
      aria-valuemax={strokes.length}
      aria-valuenow={done}
      className={`flex flex-wrap ${small ? "gap-x-2 gap-y-1" : "gap-x-3.5 gap-y-2"}`}
    >
      {fives.map((five, i) => (
        <svg key={i} viewBox="0 0 38 28" width={width} height={height} aria-hidden="true">
          {[...five].map((letter, j) => (
            <Stroke key={j} letter={letter} place={j} />
          ))}
        </svg>
      ))}
    </div>
  );
}

function Stroke({ letter, place }: { letter: string; place: number }) {
  const look = INK[letter] ?? { className: "stroke-pencil-stroke" };
  const across = place === 4;
  const x = 7 + place * 7.2;
  const lean = ((place * 37) % 5) / 4 - 0.5;
  const top = look.from ? 14 : 2.5;
  const d = across ? (look.from ? "M3 20 18 13" : "M3 20 34 8") : `M${x + lean} ${top}L${x - lean} 25.5`;
  return (
    <path d={d} className={`stroke-new ${look.className}`} strokeWidth={2.3} strokeLinecap="round" strokeDasharray={look.dash} fill="none" />
  );
}
