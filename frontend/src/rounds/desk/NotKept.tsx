import { useEffect, useState } from "react";
import type { Entry, Shown } from "../../state/outbox.ts";
import { outbox } from "../../state/sending.ts";
import { Button } from "../../ui/Button.tsx";
import { counted } from "../../ui/format.ts";

/** What takes longer than this to be kept is said, in ms. */
const SAID_AFTER = 600;
const LISTED = 6;

/** What was done here and is not kept yet, with why; each of it can be given up. */
export function NotKept({ round, shown }: { round: number; shown: Shown }) {
  const { waiting, away } = shown;
  const [late, setLate] = useState(false);
  const some = waiting.length > 0;
  useEffect(() => {
    if (!some) return undefined;
    const soon = setTimeout(() => setLate(true), SAID_AFTER);
    return () => {
      clearTimeout(soon);
      setLate(false);
    };
  }, [some]);
  return (
    <div role="status">
      {some && (late || away !== "") && (
        <details className="mb-2 border-l-2 border-held pl-2.5 text-held">
          <summary>
            {waiting.length === 1 ? `Not kept yet: ${waiting[0]?.label}.` : `${counted(waiting.length, "thing")} not kept yet.`}{" "}
            {away || "The program has not answered yet."} {waiting.length === 1 ? "It is" : "They are"} tried again until the program answers, also
            after this window was closed.
          </summary>
          <ul className="mt-1 space-y-0.5">
            {waiting.slice(0, LISTED).map((entry) => (
              <li key={entry.key} className="flex items-baseline gap-3">
                <span className="min-w-0 truncate">{entry.label}</span>
                <Button kind="link" onClick={() => outbox.giveUp(round, entry.key)}>
                  Give it up
                </Button>
              </li>
            ))}
            {waiting.length > LISTED && <li>and {counted(waiting.length - LISTED, "further thing")}</li>}
          </ul>
        </details>
      )}
    </div>
  );
}

/** What another window wrote in the same place meanwhile: one of the two is chosen, place by place. */
export function WrittenTwice({ round, asked }: { round: number; asked: Entry[] }) {
  if (!asked.length) return null;
  return (
    <section role="alert" aria-label="Written here and elsewhere" className="rounded-[3px] border border-held bg-leaf px-3 py-2">
      <h2 className="label text-held">Written here and elsewhere: neither is lost</h2>
      <ul className="mt-1 space-y-2">
        {asked.map((entry) => (
          <Twice key={entry.key} round={round} entry={entry} />
        ))}
      </ul>
    </section>
  );
}

/** One of them. Of several cells that were emptied or filled each can be left as it stands there. */
function Twice({ round, entry }: { round: number; entry: Entry }) {
  const [spared, setSpared] = useState<ReadonlySet<string>>(new Set());
  const places = entry.conflict?.places ?? [];
  const further = places.length + (entry.conflict?.further ?? 0) - LISTED;
  const each = entry.order.path.endsWith("/cells") && places.length > 1 && entry.conflict?.further === 0;
  const shown = each ? places : places.slice(0, LISTED);
  const spare = places.flatMap(({ where, row, column }): [number, string][] => (spared.has(where) && row !== null && column !== null ? [[row, column]] : []));
  const turn = (where: string) => setSpared((now) => new Set(now.has(where) ? [...now].filter((other) => other !== where) : [...now, where]));
  return (
    <li>
      <p>{entry.conflict?.sentence}</p>
      <table className="mt-0.5 w-full table-fixed txt-13.5">
        <thead>
          <tr className="label text-left">
            <th scope="col" className="w-[30%] font-semibold">
              Where
            </th>
            <th scope="col" className="font-semibold">
              Yours
            </th>
            <th scope="col" className="font-semibold">
              Stands there
            </th>
          </tr>
        </thead>
        <tbody>
          {shown.map((place) => (
            <tr key={place.where} className="align-top">
              <td className="pr-2 text-ink-2">{place.where}</td>
              <td className="pr-2 wrap-anywhere">{entry.cell?.typed ?? (place.mine || "blank")}</td>
              <td className="wrap-anywhere">
                {each ? (
                  <label className="flex items-baseline gap-1.5">
                    <input type="checkbox" checked={spared.has(place.where)} onChange={() => turn(place.where)} />
                    <span>
                      {place.theirs || "blank"}
                      <span className="sr-only">: leave it in {place.where}</span>
                    </span>
                  </label>
                ) : (
                  place.theirs || "blank"
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {!each && further > 0 && <p className="text-ink-2">and in {counted(further, "further place")}</p>}
      <div className="mt-1 flex gap-2">
        <Button onClick={() => outbox.choose(round, entry.key, true, spare)}>{spare.length ? "Keep mine in the others" : "Keep mine"}</Button>
        <Button onClick={() => outbox.choose(round, entry.key, false)}>Leave what stands there</Button>
      </div>
    </li>
  );
}
