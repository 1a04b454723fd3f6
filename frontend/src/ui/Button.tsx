import type { ComponentProps } from "react";

type Kind = "act" | "plain" | "quiet" | "link";

const KINDS: Record<Kind, string> = {
  act: "bg-act text-white border-act hover:bg-ink disabled:bg-pencil-stroke disabled:border-pencil-stroke disabled:text-ink",
  plain: "bg-leaf text-ink border-rule-strong hover:border-pencil disabled:text-pencil aria-pressed:border-ink aria-pressed:bg-chosen",
  quiet: "bg-transparent text-ink-2 border-transparent hover:text-ink hover:bg-chosen",
  link: "bg-transparent text-ink border-transparent underline decoration-pencil-stroke underline-offset-3 hover:decoration-ink px-0!",
};

/** The one button of the program. `act` is for the one thing a screen is for. */
export function Button({ kind = "plain", className = "", ...rest }: ComponentProps<"button"> & { kind?: Kind }) {
  const size = kind === "act" ? "px-5 py-2.5 text-[15px]" : kind === "link" ? "py-0" : "px-3 py-1.5";
  return (
    <button
      type="button"
      className={`rounded-[3px] border font-semibold whitespace-nowrap ${size} ${KINDS[kind]} ${className}`}
      {...rest}
    />
  );
}

const DRAWN: Record<string, string> = { ArrowDown: "↓", ArrowUp: "↑", "Ctrl f": "Ctrl F" };

/** A key of the keyboard, drawn. */
export function Key({ children }: { children: string }) {
  return (
    <kbd className="rounded-[3px] border border-rule-strong bg-leaf px-1.5 font-sans text-[12px] text-ink-2 shadow-[0_1px_0_#cfc4a9]">
      {DRAWN[children] ?? children}
    </kbd>
  );
}
