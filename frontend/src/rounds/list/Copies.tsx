import { withValue } from "../../api/key.ts";
import { useQuery } from "@tanstack/react-query";
import { api, told } from "../../api/client.ts";
import { clock, counted, dayOf } from "../../ui/format.ts";

const size = (bytes: number) => (bytes < 1_000_000 ? `${Math.ceil(bytes / 1000)} kB` : `${(bytes / 1_000_000).toFixed(1)} MB`);

const useLedgerCopies = () => useQuery({ queryKey: ["copies"], queryFn: () => told(api.GET("/api/copies")), refetchInterval: 60_000 });

/** That a ledger without a round is not the only one of its user: it may be the wrong one. */
export function OtherLedgers() {
  const { data } = useLedgerCopies();
  if (!data?.others.length) return null;
  return (
    <p role="note" className="mt-3 wrap-anywhere text-held">
      This ledger is a new one, in {data.ledger}. You have opened {data.others.length > 1 ? "others" : "another"} before: {data.others.join(", ")}. If you
      meant that, end the program, and start it with GENTLE_LEDGER_DATA set to it.
    </p>
  );
}

/** The copies of the ledger that are kept by themselves, and the way to save one elsewhere. */
export function Copies() {
  const { data } = useLedgerCopies();
  if (!data) return null;
  const last = data.copies[0];
  return (
    <section aria-label="Copies of the ledger" className="mt-3 flex flex-wrap items-baseline gap-x-4 gap-y-1 text-ink-2">
      <h2 className="label">Copies of the ledger</h2>
      {data.trouble ? (
        <p role="alert" className="text-failed">
          {data.trouble}
        </p>
      ) : (
        <p>
          {data.keep === 0
            ? "None is made by itself."
            : last
              ? `The last was made ${dayOf(last.at)}, ${clock(last.at)}; ${counted(data.copies.length, "copy is", "copies are")} kept, one a day.`
              : "The first is made in a moment; one a day is kept."}
        </p>
      )}
      <a href={withValue("/api/copies/now")} download className="underline decoration-pencil-stroke underline-offset-3 hover:text-ink">
        Save a copy
      </a>
      {data.copies.length > 0 && (
        <details>
          <summary className="cursor-pointer underline decoration-pencil-stroke underline-offset-3 hover:text-ink">Where they are</summary>
          <p className="mt-1 break-all">{data.folder}</p>
          <ul className="mt-1">
            {data.copies.map((c) => (
              <li key={c.name} className="flex gap-4">
                <span>{c.name}</span>
                <span className="ml-auto">{size(c.size)}</span>
              </li>
            ))}
          </ul>
        </details>
      )}
    </section>
  );
}
