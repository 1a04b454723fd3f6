import { useState, type ReactNode } from "react";
import { useDraft } from "../../state/useDraft.ts";
import { Button } from "../../ui/Button.tsx";
import { Popover } from "../../ui/Popover.tsx";

type Props = {
  label: string;
  /** What is shown in the sentence. */
  shown: string;
  about?: string;
  /** Whether what is entered can be set. */
  fits?: boolean;
  children: ReactNode;
  onOpen?: () => void;
  onSet: () => void;
};

/** A value of a sentence that is pressed to change it, on a small paper of its own. */
export function Pressed({ label, shown, about, fits = true, children, onOpen, onSet }: Props) {
  const [open, setOpen] = useState(false);
  return (
    <Popover
      side="top"
      label={label}
      open={open}
      onOpenChange={(now) => {
        if (now) onOpen?.();
        setOpen(now);
      }}
      trigger={
        <button type="button" aria-label={`${label}: ${shown}`} className="font-semibold underline decoration-2 underline-offset-4 hover:text-sent">
          {shown}
        </button>
      }
    >
      <form
        onSubmit={(e) => {
          e.preventDefault();
          // The paper below this one is no part of the form, but of its tree.
          e.stopPropagation();
          if (!fits) return;
          onSet();
          setOpen(false);
        }}
      >
        {children}
        <div className="mt-2">
          <Button type="submit" disabled={!fits}>
            Set
          </Button>
        </div>
        {about && <p className="mt-2 txt-13 text-ink-2">{about}</p>}
      </form>
    </Popover>
  );
}

/** What is typed on the paper: it is there again when the paper is opened once more, until it is set. */
function useTyped(label: string, value: string) {
  const [typed, setTyped, forget] = useDraft(`value${location.pathname}/${label}`, value);
  const [before, setBefore] = useState(value);
  const opened = () => {
    // What was not touched here goes with what stands in the sentence.
    if (typed === before) setTyped(value);
    setBefore(value);
  };
  const set = (onSet: () => void) => {
    onSet();
    setBefore(typed);
    forget();
  };
  return { typed, setTyped, opened, set };
}

const FIELD = "mt-1 rounded-[3px] border border-rule-strong bg-leaf px-2 py-1 txt-15";

type NumberProps = { label: string; about: string; value: number; least: number; most?: number; unit?: string; whole?: boolean; onChange: (n: number) => void };

/** A number of a sentence. */
export function NumberValue({ label, about, value, least, most = 3600, unit = "", whole = false, onChange }: NumberProps) {
  const { typed, setTyped, opened, set } = useTyped(label, String(value));
  const entered = Number(typed.replace(",", "."));
  const fits = typed.trim() !== "" && entered >= least && entered <= most && (!whole || Number.isInteger(entered));
  return (
    <Pressed label={label} shown={`${Number(value.toFixed(1))}${unit && ` ${unit}`}`} about={about} fits={fits} onOpen={opened} onSet={() => set(() => onChange(entered))}>
      <label className="label block">
        {label}
        <input
          inputMode="decimal"
          data-first
          value={typed}
          onChange={(e) => setTyped(e.target.value)}
          onFocus={(e) => e.target.select()}
          aria-invalid={!fits}
          className={`block w-24 font-normal ${FIELD}`}
        />
      </label>
    </Pressed>
  );
}

type TextProps = { label: string; about?: string; shown: string; value: string; type: "text" | "time" | "datetime-local"; fits?: (typed: string) => boolean; onChange: (typed: string) => void };

/** A time, a moment or some words of a sentence. */
export function TextValue({ label, about, shown, value, type, fits = (typed) => typed !== "", onChange }: TextProps) {
  const { typed, setTyped, opened, set } = useTyped(label, value);
  return (
    <Pressed label={label} shown={shown} {...(about ? { about } : {})} fits={fits(typed)} onOpen={opened} onSet={() => set(() => onChange(typed))}>
      <label className="label block">
        {label}
        <input type={type} data-first value={typed} onChange={(e) => setTyped(e.target.value)} aria-invalid={!fits(typed)} className={`block w-56 font-normal ${FIELD}`} />
      </label>
    </Pressed>
  );
}

type ChoiceProps = { label: string; about?: string; shown: string; value: string; choices: { value: string; name: string }[]; onChange: (value: string) => void };

/** One of several. */
export function ChoiceValue({ label, about, shown, value, choices, onChange }: ChoiceProps) {
  const [chosen, setChosen] = useState(value);
  return (
    <Pressed label={label} shown={shown} {...(about ? { about } : {})} onOpen={() => setChosen(value)} onSet={() => onChange(chosen)}>
      <label className="label block">
        {label}
        <select data-first value={chosen} onChange={(e) => setChosen(e.target.value)} className={`block w-60 font-normal ${FIELD}`}>
          {choices.map((each) => (
            <option key={each.value} value={each.value}>
              {each.name}
            </option>
          ))}
        </select>
      </label>
    </Pressed>
  );
}

type ManyProps<T extends string> = { label: string; shown: string; values: T[]; choices: T[]; onChange: (values: T[]) => void };

/** Some of several. */
export function ManyValue<T extends string>({ label, shown, values, choices, onChange }: ManyProps<T>) {
  const [chosen, setChosen] = useState(values);
  return (
    <Pressed label={label} shown={shown} fits={chosen.length > 0} onOpen={() => setChosen(values)} onSet={() => onChange(choices.filter((each) => chosen.includes(each)))}>
      <fieldset>
        <legend className="label">{label}</legend>
        <div className="mt-1 flex gap-3">
          {choices.map((each) => (
            <label key={each} className="flex flex-col items-center">
              <input type="checkbox" checked={chosen.includes(each)} onChange={(e) => setChosen(e.target.checked ? [...chosen, each] : chosen.filter((other) => other !== each))} />
              {each}
            </label>
          ))}
        </div>
      </fieldset>
    </Pressed>
  );
}
