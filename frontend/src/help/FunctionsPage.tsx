import { useState } from "react";
import type { FunctionOut } from "../api/client.ts";
import { useCatalogueQuery } from "../api/catalogue.ts";

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
        <div className="flex items-end gap-6">
          <h1 className="title flex-1 text-[28px]">Formulas</h1>
          <input
            type="search"
            aria-label="Find a function"
            placeholder="Find a function"
            value={words}
            onChange={(e) => setWords(e.target.value)}
            className="w-64 rounded-[3px] border border-rule-strong bg-leaf px-2.5 py-1.5 text-[15px] placeholder:text-pencil"
          />
        </div>
        <p className="mt-2 text-[15px] text-ink-2">
          A formula works a column out from the row’s other columns. Arguments stand in brackets with ; or , between them, and
          the decimal mark is the point. Words in square brackets may be left out; … may be repeated.
        </p>
        {!needle && (
          <dl className="mt-4 grid grid-cols-[150px_1fr] gap-x-4 gap-y-1 border-y border-rule py-3 text-[15px]">
            {OPERATORS.map(([sign, about]) => (
              <div key={sign} className="contents">
                <dt className="font-semibold">{sign}</dt>
                <dd>{about}</dd>
              </div>
            ))}
          </dl>
        )}
        {isError && <p role="alert" className="mt-4 text-failed">The functions cannot be shown: the program does not answer.</p>}
        {data && !found.length && <p className="mt-6 text-[15px]">No function has “{words}” in its name or its words.</p>}
        {topics.map((topic) => (
          <section key={topic} aria-label={topic} className="mt-6">
            <h2 className="title text-[20px]">{topic}</h2>
            {found
              .filter((f) => f.topic === topic)
              .map((f) => (
                <article key={f.name} className="grid grid-cols-[1fr_300px] gap-6 border-b border-rule py-2 text-[15px]">
                  <div>
                    <h3 className="font-semibold">
                      {f.name}
                      <span className="font-normal text-ink-2">({f.shape})</span>
                    </h3>
                    <p>{f.doc}</p>
                  </div>
                  <ul className="text-[14px] text-ink-2">
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
