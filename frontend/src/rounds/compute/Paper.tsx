import { useEffect, type ReactNode } from "react";
import { focusSoon } from "../../ui/focus.ts";

type PaperProps = { label: string; title: string; extra?: ReactNode; onClose: () => void; children: ReactNode };

/** A sheet of paper over the wording, with its name and a way to put it away; its first field has the focus. */
export function Paper({ label, title, extra, onClose, children }: PaperProps) {
  useEffect(() => focusSoon("panel"), []);
  return (
    <section
      aria-label={label}
      data-region="panel"
      onKeyDown={(e) => {
        // Escape puts a list of what can be typed away first.
        if (e.key === "Escape" && !e.defaultPrevented) onClose();
      }}
      className="rounded-[3px] border border-rule-strong bg-leaf"
    >
      <header className="flex items-center gap-3 border-b border-rule px-3 py-1.5">
        <h2 className="label mr-auto">{title}</h2>
        {extra}
        <button type="button" onClick={onClose} className="text-ink-2 hover:text-ink">
          Close
        </button>
      </header>
      <div className="space-y-2 px-3 pt-2 pb-3">{children}</div>
    </section>
  );
}

/** What is missing where somebody wants to go on without it; "" for nothing. */
export function Missing({ what }: { what: string }) {
  return (
    <p role="alert" className="text-held empty:hidden">
      {what}
    </p>
  );
}

/** A line to write in, with its name above. */
export function Line(props: { id: string; label: string; value: string; placeholder?: string; most?: number; first?: boolean; onChange: (text: string) => void }) {
  return (
    <div>
      <label className="label block" htmlFor={props.id}>
        {props.label}
      </label>
      <input
        id={props.id}
        data-first={props.first || undefined}
        value={props.value}
        maxLength={props.most ?? 200}
        placeholder={props.placeholder}
        onChange={(e) => props.onChange(e.target.value)}
        className="mt-0.5 w-full rounded-[3px] border border-rule-strong bg-leaf px-2 py-1 placeholder:text-pencil"
      />
    </div>
  );
}
