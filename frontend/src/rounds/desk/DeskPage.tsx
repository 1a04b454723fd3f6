import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, sentenceOf, told, Trouble, type Desk } from "../../api/client.ts";
import { newest } from "../../api/newest.ts";
import { Button } from "../../ui/Button.tsx";
import { PrepareDesk } from "./PrepareDesk.tsx";
import { SendDesk } from "./SendDesk.tsx";
import { useProgress } from "./useProgress.ts";

export default function DeskPage() {
  const id = Number(useParams()["id"]);
  const desk = useQuery({
    queryKey: ["desk", id],
    // A browser keeps six connections to one address: what is no longer wanted must not hold one.
    queryFn: ({ signal }) => told(api.GET("/api/rounds/{round_id}", { params: { path: { round_id: id } }, signal })),
    // An answer that was asked for before a change must not take the place of the change's own.
    structuralSharing: (kept, came) => newest(kept as Desk | undefined, came as Desk),
  });
  // A round that another window removed says so, though it was just being worked on.
  const removed = desk.error instanceof Trouble && desk.error.kind === "not there";
  if (desk.data && !removed)
    return desk.data.stage === "preparing" ? (
      <PrepareDesk key={id} desk={desk.data} />
    ) : (
      <SendDesk key={id} desk={desk.data} />
    );
  if (desk.isError)
    return (
      <main className="p-8 txt-15" data-region="gone">
        <p role="alert" className="text-failed">
          {sentenceOf(desk.error)}
        </p>
        <Link to="/" className="mt-3 inline-block underline">
          Back to the rounds
        </Link>
        {removed && <BringBack id={id} />}
      </main>
    );
  return <Opening id={id} />;
}

/** Undoes the removal, for as long as the round is kept. */
function BringBack({ id }: { id: number }) {
  const queries = useQueryClient();
  const [kept, setKept] = useState(true);
  const back = () =>
    void told(api.POST("/api/rounds/{round_id}/restore", { params: { path: { round_id: id } } }))
      .then(() => queries.invalidateQueries({ queryKey: ["desk", id] }))
      .catch(() => setKept(false));
  return (
    <p className="mt-4">
      {kept ? <Button onClick={back}>Bring the round back</Button> : "It is not kept any more."}
    </p>
  );
}

function Opening({ id }: { id: number }) {
  const percent = useProgress(id, true);
  return (
    <main className="p-8 txt-15 text-ink-2" aria-busy="true">
      Opening the round…{percent}
    </main>
  );
}
