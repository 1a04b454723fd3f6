import type { Desk } from "../../api/client.ts";
import { ColumnQuestions } from "./ColumnQuestions.tsx";
import { Doubled } from "./Doubled.tsx";
import { HiddenRows } from "./HiddenRows.tsx";
import { SentColumns } from "./SentColumns.tsx";
import { Unmatched } from "./Unmatched.tsx";
import { Unusable } from "./Unusable.tsx";
import { Together } from "../compute/Together.tsx";
import type { Commands } from "./useCommands.ts";

type Props = {
  desk: Desk;
  commands: Commands;
  /** Whether the paper on combining rows is open, which asks about them itself. */
  combining: boolean;
  /** Goes to a cell. */
  onCell: (row: number, column: string) => void;
};

/** Everything about the sheet and the set-up that the clerk is asked, each where it applies. */
export function ToBeSaid({ desk, commands, combining, onCell }: Props) {
  return (
    <div data-region="to be said" className="flex flex-col gap-3 empty:hidden">
      <Unusable desk={desk} onMend={commands.mendRecipe} />
      <ColumnQuestions desk={desk} onChange={commands.setColumn} onCountries={(countries) => commands.setUp({ countries })}>
        {!combining && desk.together.length > 0 && <Together desk={desk} onTogether={commands.sayTogether} onCell={onCell} />}
      </ColumnQuestions>
      <SentColumns desk={desk} onSay={commands.saySent} />
      <HiddenRows desk={desk} onSay={(leave_out_hidden) => commands.setUp({ leave_out_hidden })} />
      <Doubled desk={desk} onSay={commands.sayDoubled} />
      <Unmatched desk={desk} onMatch={commands.match} onForget={commands.forget} />
    </div>
  );
}
