import { useCallback } from "react";
import { Link, useNavigate } from "react-router";
import { Button, Key } from "../ui/Button.tsx";
import { usePage } from "../ui/usePage.ts";
import { useTitle } from "../ui/useTitle.ts";

const PARTS: { title: string; lines: string[] }[] = [
  {
    title: "Whom to text",
    lines: [
      "Only people who gave you their number for this and would expect your text. A number from an old list, or one that was passed on, is not theirs to be texted on.",
      "Write down when and how somebody agreed: on a form, at the counter, by phone. If ever asked, you can say.",
      "A number that belongs to somebody else by now is no longer theirs. Ask about numbers you have not used for a year.",
    ],
  },
  {
    title: "Say who you are",
    lines: [
      "Name yourself in every text, as the reader knows you, not only in the sender's name: not every phone shows it.",
      "Give one way to reach a person: a number that is answered, an office with hours.",
    ],
  },
  {
    title: "How to be asked to stop",
    lines: [
      "Tell people how to ask for no more texts, and take any way of asking: by phone, in the office, as an answer, in their own words.",
      "Note it at once under No more texts. From then on every round holds their row, and what is still to go is left out.",
    ],
  },
  {
    title: "When, and how often",
    lines: [
      "In the reader's day and not yours: their time zone, their weekend and their holidays.",
      "At a calm pace. Who sends too fast is taken for somebody who sends unasked, and is blocked by carriers; and an office can only answer so many calls an hour.",
      "One text a matter, a reminder when it is due, and one more at most. After two reminders a call or a letter does more than a third text.",
    ],
  },
  {
    title: "What not to put in a text",
    lines: [
      "Nothing that others should not read over a shoulder: no account numbers, no passwords, nothing of a person's health, no threats.",
      "No shortened link, and no link to a host that the reader does not know as yours: that is what those who deceive people send.",
      "No amount without what it is for, and no day without its month. A text is read alone, without the letter before it.",
    ],
  },
];

/** What is good practice when texting people, in plain words; what is law is for whoever sends to know. */
export default function PracticePage() {
  useTitle("Good practice");
  const go = useNavigate();
  const back = useCallback(() => void go(-1), [go]);
  usePage("Back to where you came from", back);
  return (
    <main className="min-h-0 flex-1 overflow-auto px-8 py-6">
      <article className="mx-auto max-w-[720px] txt-15">
        <div data-region="page" className="float-right">
          <Button onClick={back}>
            Back <Key>Esc</Key>
          </Button>
        </div>
        <h1 className="title txt-28">Good practice when texting people</h1>
        <p className="mt-2 text-ink-2">
          What keeps texts welcome, and a sender from being blocked. What is law where you are, and where your readers are, is yours to
          know: this page is no advice on it.
        </p>
        {PARTS.map((part) => (
          <section key={part.title} className="mt-5">
            <h2 className="title txt-18">{part.title}</h2>
            <ul className="mt-1 list-disc space-y-1 pl-5">
              {part.lines.map((line) => (
                <li key={line}>{line}</li>
              ))}
            </ul>
          </section>
        ))}
        <section className="mt-5">
          <h2 className="title txt-18">One published example</h2>
          <p className="mt-1">
            In the United States, 47 CFR 64.1200(c)(1) allows telephone solicitation only between 8 a.m. and 9 p.m., local time at the called
            party’s location. Other places have other hours, and other rules for what is a reminder of a debt.
          </p>
        </section>
        <p className="mt-6">
          <Link to="/no-more-texts" className="underline decoration-pencil-stroke underline-offset-3">
            Who asked for no more texts
          </Link>
        </p>
      </article>
    </main>
  );
}
