import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { api, sentenceOf, told } from "../api/client.ts";
import { useDraft } from "../state/useDraft.ts";
import { Button } from "../ui/Button.tsx";
import { counted } from "../ui/format.ts";
import { useNotices } from "../ui/notices.tsx";
import { useTitle } from "../ui/useTitle.ts";

const FIELD = "mt-0.5 w-full rounded-[3px] border border-rule-strong bg-leaf px-2 py-1 placeholder:text-pencil";

/** Today as a day is written in a date field, by this machine's clock. */
const today = (): string => new Date().toLocaleDateString("en-CA");

/** Who asked for no more texts: no round sends to them, and nothing releases them. */
export default function NoMoreTextsPage() {
  useTitle("No more texts");
  const [asked] = useSearchParams();
  const queries = useQueryClient();
  const notices = useNotices();
  const [number, setNumber, forgetNumber] = useDraft(`no more texts/${asked.get("number") ?? ""}`, asked.get("number") ?? "");
  const [on, setOn] = useState(today);
  const [how, setHow, forgetHow] = useDraft("no more texts/how", "");
  const people = useQuery({
    queryKey: ["no more texts"],
    queryFn: ({ signal }) => told(api.GET("/api/no-more-texts", { signal })),
    staleTime: 0,
  });
  const changed = () => {
    void queries.invalidateQueries({ queryKey: ["no more texts"] });
    void queries.invalidateQueries({ queryKey: ["desk"] });
  };
  const note = () =>
    told(api.POST("/api/no-more-texts", { body: { number, on, how } }))
      .then(({ entry, left_out }) => {
        setNumber("");
        setHow("");
        forgetNumber();
        forgetHow();
        const waiting = left_out ? ` ${counted(left_out, "text")} that was still to go is left out.` : "";
        notices.done(`${entry.number} is on the list.${waiting}`);
        changed();
      })
      .catch(notices.trouble);
  const takeOff = (id: number, whose: string) =>
    told(api.DELETE("/api/no-more-texts/{entry}", { params: { path: { entry: id } } }))
      .then(() => {
        notices.done(`${whose} is off the list.`);
        changed();
      })
      .catch(notices.trouble);
  return (
    <main className="min-h-0 flex-1 overflow-auto px-8 py-6">
      <div className="mx-auto max-w-[760px]">
        <h1 className="title txt-28">No more texts</h1>
        <p className="mt-1 txt-15 text-ink-2">
          Who asked for no more texts. Every round holds their rows, and nothing releases them. What is still to go when a number is
          noted is left out at once.
        </p>
        <form
          className="mt-5 grid grid-cols-[1fr_10rem_1fr_auto] items-end gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            if (number.trim()) void note();
          }}
        >
          <label className="label">
            Mobile number
            <input className={FIELD} value={number} maxLength={100} placeholder="+1 902 555 0100" onChange={(e) => setNumber(e.target.value)} />
          </label>
          <label className="label">
            Asked on
            <input className={FIELD} type="date" value={on} max={today()} required onChange={(e) => setOn(e.target.value)} />
          </label>
          <label className="label">
            How
            <input className={FIELD} value={how} maxLength={200} placeholder="by phone" onChange={(e) => setHow(e.target.value)} />
          </label>
          <Button type="submit" disabled={!number.trim()}>
            Note it
          </Button>
        </form>
        {people.isError && (
          <p role="alert" className="mt-4 text-failed">
            {sentenceOf(people.error)}
          </p>
        )}
        {people.isPending && <p className="mt-6 txt-15 text-ink-2">Looking…</p>}
        {people.data?.length === 0 && <p className="mt-6 txt-15 text-ink-2">Nobody has asked so far.</p>}
        {!!people.data?.length && (
          <table className="mt-5 w-full border-t border-rule text-left">
            <caption className="sr-only">Who asked for no more texts</caption>
            <thead>
              <tr className="border-b border-rule-strong">
                <th className="label py-1.5">Number</th>
                <th className="label">Asked on</th>
                <th className="label">How</th>
                <td />
              </tr>
            </thead>
            <tbody>
              {people.data.map((one) => (
                <tr key={one.id} className="border-b border-rule">
                  <td className="py-1.5 tabular-nums">{one.number}</td>
                  <td className="tabular-nums">{one.on}</td>
                  <td className="wrap-anywhere">{one.how}</td>
                  <td className="text-right">
                    <Button kind="link" aria-label={`Take ${one.number} off: noted by mistake`} onClick={() => void takeOff(one.id, one.number)}>
                      Noted by mistake
                    </Button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </div>
    </main>
  );
}
