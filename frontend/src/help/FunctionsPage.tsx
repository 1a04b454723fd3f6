import { useState } from "react";
import type { FunctionOut } from "../api/client.ts";
import { useCatalogueQuery } from "../api/catalogue.ts";
import { Dropped } from "../rounds/desk/Dropped.tsx";
import { useTitle } from "../ui/useTitle.ts";

const OPERATORS = [
  ["{Column}", "this row’s value of a column, as in the wording"],
  ["+ − * / ^", "plus, minus, times, divided by, to the power of"],
  ["%", "behind a number: a hundredth, so 1.5% is 0.015"],
  ["&", "joins texts: {Berth} & \"-1126\""],
  ["= <> < <= > >=", "compare; texts in any case"],
  ["( )", "first this"],
] as const;

/** Every function of the formula language with its words and examples, as the program's own registry has them. */
export default function FunctionsPage() {
  useTitle("Formulas");
  const { data: catalogue, isError } = useCatalogueQuery();
  const data = catalogue?.functions;
  const [words, setWords] = useState("");
  const needle = words.trim().toLowerCase();
  const fits = (f: FunctionOut) => `${f.name} ${f.doc}`.toLowerCase().includes(needle);
  const found = (data ?? []).filter(fits);
  const topics = [...new Set(found.map((f) => f.topic))];
  return (
    <main className="min-h-0 flex-1 overflow-auto px-8 py-6">
      <div className="mx-auto max-w-[900px]">
        <div className="flex flex-wrap items-end gap-x-6 gap-y-2">
          <h1 className="title flex-1 txt-28">Formulas</h1>
          <input
            type="search"
            aria-label="Find a function"
            placeholder="Find a function"
            value={words}
            onChange={(e) => setWords(e.target.value)}
            className="w-64 rounded-[3px] border border-rule-strong bg-leaf px-2.5 py-1.5 txt-15 placeholder:text-pencil"
          />
        </div>
        <p className="mt-2 txt-15 text-ink-2">
          A formula works a column out from the row’s other columns. Arguments stand in brackets with ; or , between them, and
          the decimal mark is the point. Words in square brackets may be left out; … may be repeated.
        </p>
        {!needle && (
          <dl className="mt-4 grid grid-cols-[minmax(7rem,150px)_1fr] gap-x-4 gap-y-1 border-y border-rule py-3 txt-15">
            {OPERATORS.map(([sign, about]) => (
              <div key={sign} className="contents">
                <dt className="font-semibold">{sign}</dt>
                <dd>{about}</dd>
              </div>
            ))}
          </dl>
        )}
        <Dropped onNewer={null} />
        {isError && <p role="alert" className="mt-4 text-failed">The functions cannot be shown: the program does not answer.</p>}
        {data && !found.length && <p className="mt-6 txt-15">No function has “{words}” in its name or its words.</p>}
        {topics.map((topic) => (
          <section key={topic} aria-label={topic} className="mt-6">
            <h2 className="title txt-20">{topic}</h2>
            {found
              .filter((f) => f.topic === topic)
              .map((f) => (
                <article key={f.name} className="grid gap-x-6 gap-y-1 border-b md:grid-cols-[1fr_300px] border-rule py-2 txt-15">
                  <div>
                    <h3 className="font-semibold">
                      {f.name}
                      <span className="font-normal text-ink-2">({f.shape})</span>
                    </h3>
                    <p>{f.doc}</p>
                  </div>
                  <ul className="txt-14 text-ink-2">
                    {f.examples.map(({ formula, value }) => (
                      <li key={formula} className="wrap-anywhere">
                        {formula} <span className="text-ink">= {value}</span>
                      </li>
                    ))}
                  </ul>
                </article>
              ))}
          </section>
        ))}
      </div>
    </main>
  );
}
