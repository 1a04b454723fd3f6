import { useEffect, useState, type ComponentProps } from "react";

type Kind = "act" | "plain" | "quiet" | "link";

const KINDS: Record<Kind, string> = {
  act: "bg-act text-white border-act hover:bg-ink disabled:bg-pencil-stroke disabled:border-pencil-stroke disabled:text-ink aria-disabled:bg-pencil-stroke aria-disabled:border-pencil-stroke aria-disabled:text-ink aria-disabled:cursor-default",
  plain: "bg-leaf text-ink border-rule-strong hover:border-pencil disabled:text-pencil aria-pressed:border-ink aria-pressed:bg-chosen",
  quiet: "bg-transparent text-ink-2 border-transparent hover:text-ink hover:bg-chosen",
  link: "bg-transparent text-ink border-transparent underline decoration-pencil-stroke underline-offset-3 hover:decoration-ink px-0!",
};

/** The one button of the program. `act` is for the one thing a screen is for. */
export function Button({ kind = "plain", className = "", ...rest }: ComponentProps<"button"> & { kind?: Kind }) {
  const size = kind === "act" ? "px-5 py-2.5 txt-15" : kind === "link" ? "py-0" : "px-3 py-1.5";
  return (
    <button
      type="button"
      className={`rounded-[3px] border font-semibold whitespace-nowrap ${size} ${KINDS[kind]} ${className}`}
      {...rest}
    />
  );
}

/** The time in which a second press of the key that opened a question would answer it, in ms. */
const ANSWERED_BY_OVERSIGHT = 500;

/** The button that answers a question with yes: neither a held key nor one pressed twice by a hasty hand presses it. */
export function ConfirmButton({ disabled = false, onClick, ...rest }: Omit<ComponentProps<typeof Button>, "kind">) {
  const [young, setYoung] = useState(true);
  useEffect(() => {
    const grown = setTimeout(() => setYoung(false), ANSWERED_BY_OVERSIGHT);
    return () => clearTimeout(grown);
  }, []);
  return (
    <Button
      kind="act"
      {...rest}
      disabled={disabled}
      aria-disabled={young || disabled}
      onKeyDown={(event) => event.repeat && event.preventDefault()}
      onClick={(event) => !young && onClick?.(event)}
    />
  );
}

const DRAWN: Record<string, string> = { ArrowDown: "↓", ArrowUp: "↑" };

const drawn = (key: string): string => DRAWN[key] ?? key.replace(/(?<= )[a-z]$/, (letter) => letter.toUpperCase());

/** A key of the keyboard, drawn. */
export function Key({ children }: { children: string }) {
  return (
    <kbd className="rounded-[3px] border border-rule-strong bg-leaf px-1.5 font-sans txt-12 text-ink-2 shadow-[0_1px_0_#cfc4a9]">
      {drawn(children)}
    </kbd>
  );
}
