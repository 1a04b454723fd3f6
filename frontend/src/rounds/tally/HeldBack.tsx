import { Button } from "../../ui/Button.tsx";
import { figure } from "../../ui/format.ts";

type Props = {
  held: number;
  /** Whether nothing goes out any more. */
  over: boolean;
  onShow: () => void;
};

/** What was held when sending began, and the way to mend it and send it in the same round. */
export function HeldBack({ held, over, onShow }: Props) {
  const [they, them] = held === 1 ? ["It is", "it"] : ["They are", "them"];
  return (
    <section aria-label="Held back" data-region="held back" className="rounded-[3px] border border-rule-strong bg-leaf px-3 py-2">
      <h2 className="label">{figure(held)} held</h2>
      <p className="mt-1 text-ink-2">
        {over ? `${held === 1 ? "It was" : "They were"} not sent.` : `${they} not sent with the others.`} Mend {them} in the sheet; what is ready then is sent in this round, once you
        confirm it.
      </p>
      <Button className="mt-2" onClick={onShow}>
        {held === 1 ? "Mend it" : "Mend them"}
      </Button>
    </section>
  );
}
