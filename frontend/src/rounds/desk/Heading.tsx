import type { ReactNode } from "react";
import { codeOf, nameOf, useCatalogue } from "../../api/catalogue.ts";
import type { Desk, SetupIn } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { counted, dayOf, moment } from "../../ui/format.ts";
import { useDraft } from "../../state/useDraft.ts";
import { Popover } from "../../ui/Popover.tsx";

type Props = {
  desk: Desk;
  /** What this view of the round is, in words. */
  view: string;
  onSetup: (setup: SetupIn) => void;
  children: ReactNode;
};

/** The round's name and where its rows came from. The name is changed in place, the rest by pressing it. */
export function Heading({ desk, view, onSetup, children }: Props) {
  const locked = desk.stage !== "preparing";
  const [title, setTitle, forget] = useDraft(`title/${desk.uid}`, desk.title);
  const keepTitle = () => {
    const trimmed = title.trim();
    if (trimmed && trimmed !== desk.title) onSetup({ title: trimmed });
    else setTitle(desk.title);
    forget();
  };
  return (
    <div className="flex flex-wrap items-end gap-x-3 gap-y-1 pb-2.5">
      <div className="min-w-60 flex-1">
        <h1 className="sr-only">
          {desk.title}: {view}
        </h1>
        <div>
          <input
            aria-label="Name of the round"
            value={title}
            maxLength={200}
            onChange={(e) => setTitle(e.target.value)}
            onBlur={keepTitle}
            onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
            className="title -ml-1 w-full truncate rounded-[3px] bg-transparent px-1 txt-25 leading-9 hover:bg-leaf"
          />
        </div>
        <p className="heading-line text-ink-2">
          {locked ? (
            <>
              {desk.started_at && `Started ${moment(desk.started_at)} from ${desk.line}`} · the wording is locked, and each row once it
              went
            </>
          ) : (
            <>
              {counted(desk.rows, "row")} from {desk.file_name}
              {desk.worksheet && `, worksheet ${desk.worksheet}`}
              {desk.reading && ` (${desk.reading})`} ·{" "}
              <Popover
                label="Set-up of the round"
                trigger={
                  <button type="button" className="text-left underline decoration-pencil-stroke underline-offset-3 hover:text-ink">
                    {desk.as_of && `dated ${dayOf(desk.as_of)}, `}{desk.numbers_of}, amounts in {desk.currency_name}
                  </button>
                }
              >
                <Setup desk={desk} onSetup={onSetup} />
              </Popover>{" "}
              · from {desk.line}
            </>
          )}
        </p>
      </div>
      <div data-region="heading" className="flex flex-wrap items-center gap-3">
        {children}
      </div>
    </div>
  );
}

const FIELDS = [
  { name: "as_of", label: "Dated", type: "date", about: "" },
  { name: "region", label: "Country of the numbers", type: "text", about: "of those without a country code" },
  { name: "currency", label: "Currency of the amounts", type: "text", about: "" },
  { name: "locale", label: "How amounts and dates are written", type: "text", about: "" },
  {
    name: "repeat_days",
    label: "Days to look back for repeats",
    type: "text",
    about: "what went to the same number in another round, word for word, is held",
  },
] as const;

function Setup({ desk, onSetup }: { desk: Desk; onSetup: (setup: SetupIn) => void }) {
  const { places } = useCatalogue();
  const [form, setForm, forget] = useDraft(`set-up/${desk.uid}`, {
    as_of: desk.as_of ?? "",
    region: nameOf(places.region, desk.region),
    currency: nameOf(places.currency, desk.currency),
    locale: nameOf(places.locale, desk.locale),
    plain_signs: desk.plain_signs,
    repeat_days: String(desk.repeat_days),
  });
  return (
    <form
      className="space-y-2.5"
      onSubmit={(e) => {
        e.preventDefault();
        onSetup({
          as_of: form.as_of || null,
          region: codeOf(places.region, form.region),
          currency: codeOf(places.currency, form.currency),
          locale: codeOf(places.locale, form.locale),
          plain_signs: form.plain_signs,
          // What is no number goes as nothing, which the program refuses; as 0 it would switch the look for repeats off.
          repeat_days: form.repeat_days.trim() === "" ? Number.NaN : Number(form.repeat_days),
        });
        forget();
      }}
    >
      {FIELDS.map((f) => (
        <div key={f.name}>
          <label className="label block" htmlFor={f.name}>
            {f.label}
          </label>
          <input
            id={f.name}
            type={f.type}
            value={form[f.name]}
            onFocus={(e) => f.name in places && e.target.select()}
            list={f.name in places ? `${f.name}-names` : undefined}
            onChange={(e) => setForm({ ...form, [f.name]: e.target.value })}
            className="mt-0.5 w-full rounded-[3px] border border-rule-strong bg-leaf px-2 py-1"
          />
          {f.name in places && (
            <datalist id={`${f.name}-names`}>
              {places[f.name as keyof typeof places].map((p) => (
                <option key={p.code} value={p.name} />
              ))}
            </datalist>
          )}
          {f.about && <p className="txt-12.5 text-ink-2">{f.about}</p>}
        </div>
      ))}
      <label className="flex items-start gap-2">
        <input
          type="checkbox"
          className="mt-1 accent-act"
          checked={form.plain_signs}
          onChange={(e) => setForm({ ...form, plain_signs: e.target.checked })}
        />
        <span>
          Keep special characters out of amounts and dates
          <span className="block txt-12.5 text-ink-2">
            No-break spaces become plain ones, and signs such as ₹ the currency’s code: with one special character a text
            takes about twice the parts.
          </span>
        </span>
      </label>
      <Button type="submit">Set</Button>
    </form>
  );
}
