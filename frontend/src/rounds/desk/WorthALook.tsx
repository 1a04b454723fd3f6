import type { Finding } from "../../api/client.ts";
import { figure } from "../../ui/format.ts";

type Props = {
  findings: Finding[];
  /** Whether something newer is being counted: what stands here may change. */
  stale: boolean;
  chosen: string | null;
  onChoose: (finding: Finding | null) => void;
  onChecks: () => void;
  onRead: () => void;
};

/** What is held, then what is odd, each in a sentence; pressing one shows its rows. */
export function WorthALook({ findings, stale, chosen, onChoose, onChecks, onRead }: Props) {
  return (
    <section
      aria-label="Worth a look before sending"
      aria-busy={stale}
      data-region="look"
      className={`rounded-[3px] border border-rule-strong bg-leaf px-3 py-2 ${stale ? "stale" : ""}`}
    >
      <header className="flex items-baseline justify-between">
        <h2 className="label">Worth a look before sending</h2>
        <button type="button" className="ml-auto text-ink-2 hover:text-ink" onClick={onChecks}>
          What is checked
        </button>
        <button type="button" title="One by one, oddest first (Alt E)" className="ml-4 font-semibold whitespace-nowrap hover:underline" onClick={onRead}>
          Read the texts
        </button>
      </header>
      {findings.length === 0 && <p tabIndex={-1} data-first className="mt-1 text-ink-2">Nothing is held and nothing is odd.</p>}
      <ul className="mt-1">
        {findings.map((f, i) => (
          <li key={f.check}>
            <button
              type="button"
              data-first={i === 0 || undefined}
              title={f.doc}
              aria-pressed={chosen === f.check}
              onClick={() => onChoose(chosen === f.check ? null : f)}
              className={`flex w-full gap-2.5 rounded-[2px] px-1 py-[3px] text-left hover:bg-chosen ${chosen === f.check ? "bg-chosen" : ""}`}
            >
              <span className={`shrink-0 whitespace-nowrap text-held ${f.holds ? "font-semibold" : ""}`}>
                {figure(f.rows)} {f.label}
              </span>
              <span>{f.sentence}</span>
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
