import { useQuery } from "@tanstack/react-query";
import { api, sentenceOf, told, type Costly, type Desk } from "../../api/client.ts";
import { Button } from "../../ui/Button.tsx";
import { counted, figure } from "../../ui/format.ts";
import type { Commands } from "../desk/useCommands.ts";
import { Paper } from "./Paper.tsx";

type Props = { desk: Desk; commands: Commands; onClose: () => void };

/** How many parts the texts take, and which characters could be plain ones, replaced at one press. */
export default function WeightPanel({ desk, commands, onClose }: Props) {
  const asked = useQuery({
    queryKey: ["weight", desk.id, desk.version],
    queryFn: ({ signal }) => told(api.GET("/api/rounds/{round_id}/weight", { signal, params: { path: { round_id: desk.id } } })),
    placeholderData: (kept) => kept,
  });
  const w = asked.data;
  const signs = (w?.costly ?? []).filter((each) => !each.letter);
  const letters = (w?.costly ?? []).filter((each) => each.letter);
  const sizes = (w?.sizes ?? []).map(({ parts, texts }, i) => `${i ? figure(texts) : counted(texts, "text")} in ${counted(parts, "part")}`);
  return (
    <Paper label="What it weighs" title="What the texts weigh" onClose={onClose}>
      <div tabIndex={-1} data-first className="space-y-2 outline-none" aria-busy={!w}>
        {asked.isError && (
          <p role="alert" className="text-failed">
            {sentenceOf(asked.error)}
          </p>
        )}
        {w && !sizes.length && <p className="text-ink-2">No text is ready yet.</p>}
        {w && sizes.length > 0 && (
          <>
            <p className="txt-15">{sizes.join(", ")}.</p>
            {w.one_less > 0 && <p>One character less would bring {counted(w.one_less, "text")} down by a part.</p>}
            {!w.costly.length && <p className="text-ink-2">No special character makes a text take more room that could be a plain one.</p>}
            {signs.length > 0 && (
              <>
                <h3 className="label">Signs and spaces that could be plain</h3>
                <Characters costly={signs} onReplace={commands.replaceCharacters} />
                {signs.length > 1 && (
                  <Button onClick={() => commands.replaceCharacters(signs.map((each) => each.character).join(""))}>
                    Replace all of them: {counted(w.signs_less, "part")} less
                  </Button>
                )}
              </>
            )}
            {letters.length > 0 && (
              <>
                <h3 className="label">Letters that would lose their accent: each is your choice, above all in a name</h3>
                <Characters costly={letters} onReplace={commands.replaceCharacters} />
              </>
            )}
          </>
        )}
      </div>
    </Paper>
  );
}

function Characters({ costly, onReplace }: { costly: Costly[]; onReplace: (characters: string) => void }) {
  return (
    <ul className="border-y border-rule">
      {costly.map((each) => {
        const where = [...(each.in_wording ? ["the wording"] : []), ...each.columns].join(", ");
        const plain = each.plain === "" ? "be left away" : each.plain === " " ? "be a plain space" : `be ${each.plain}`;
        return (
          <li key={each.character} className="flex items-baseline gap-3 border-b border-rule py-1 last:border-b-0">
            <span className="min-w-0 flex-1 leading-snug">
              {each.name} can {plain}: {counted(each.parts_less, "part")} less
              <span className="text-ink-2">
                {" "}
                · {counted(each.texts, "text")}
                {where && `, in ${where}`}
              </span>
            </span>
            <Button kind="link" aria-label={`Replace ${each.name}`} onClick={() => onReplace(each.character)}>
              Replace
            </Button>
          </li>
        );
      })}
    </ul>
  );
}
