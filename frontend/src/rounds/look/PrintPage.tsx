import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { api, sentenceOf, told, type TextLine } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { counted, figure } from "../../ui/format.ts";
import { useTitle } from "../../ui/useTitle.ts";

const STRETCH = 500;

/** All finished texts on paper, with room to sign, so that somebody else can check them. */
export default function PrintPage() {
  const id = Number(useParams()["id"]);
  const asked = useQuery({
    queryKey: ["texts to print", id],
    queryFn: async ({ signal }) => {
      const lines: TextLine[] = [];
      for (;;) {
        const query = { offset: lines.length, limit: STRETCH };
        const found = await told(api.GET("/api/rounds/{round_id}/look/texts", { signal, params: { path: { round_id: id }, query } }));
        lines.push(...found.lines);
        if (lines.length >= found.total || !found.lines.length) return { title: found.title, lines };
      }
    },
    staleTime: 0,
  });
  useTitle(`${asked.data?.title ?? "The round"}: texts to check`);
  return (
    <main className="print-page min-h-0 flex-1 overflow-auto bg-leaf px-8 py-6">
      <div className="not-printed mb-4 flex items-center gap-4">
        <Button kind="act" disabled={!asked.data} onClick={() => window.print()}>
          Print
        </Button>
        <Link to={`/rounds/${id}/look/texts`} className="underline decoration-pencil-stroke underline-offset-3">
          Back to the texts
        </Link>
      </div>
      {asked.isError && (
        <p role="alert" className="text-failed">
          {sentenceOf(asked.error)}
        </p>
      )}
      {asked.isPending && <p aria-busy="true">Putting the texts together…</p>}
      {asked.data && (
        <>
          <h1 className="title txt-22">{asked.data.title}</h1>
          <p className="text-ink-2">
            {counted(asked.data.lines.length, "text")}, as they stood on {new Date().toLocaleString("en-CA", { dateStyle: "long", timeStyle: "short", hour12: false })}.
          </p>
          <table className="mt-3 w-full border-t border-rule-strong text-left align-top">
            <thead>
              <tr className="border-b border-rule-strong">
                {["Row", "Name and number", "Text", "Checked"].map((head) => (
                  <th key={head} className="label py-1 pr-3">
                    {head}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {asked.data.lines.map((line) => (
                <tr key={line.row} className="break-inside-avoid border-b border-rule align-top">
                  <td className="py-1.5 pr-3 text-right tabular-nums">{figure(line.row)}</td>
                  <td className="py-1.5 pr-3">
                    {line.label}
                    <span className="block text-ink-2 tabular-nums">{line.number}</span>
                  </td>
                  <td className="py-1.5 pr-3 wrap-anywhere whitespace-pre-wrap">
                    {line.text}
                    {line.says && <span className="block text-held">{`${line.mark === "Held" ? "Held: " : ""}${line.says}`}</span>}
                  </td>
                  <td className="py-1.5">
                    <span className="inline-block size-4 border border-pencil" />
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="mt-10 flex gap-10">
            <span className="flex-1 border-t border-ink pt-1">Checked by</span>
            <span className="w-48 border-t border-ink pt-1">Date</span>
          </p>
        </>
      )}
    </main>
  );
}
