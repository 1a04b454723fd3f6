import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { api, sentenceOf, told, type Desk } from "../../api/client.ts";
import { newest } from "../../api/newest.ts";
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
  if (desk.data)
    return desk.data.stage === "preparing" ? (
      <PrepareDesk key={id} desk={desk.data} />
    ) : (
      <SendDesk key={id} desk={desk.data} />
    );
  if (desk.isError)
    return (
      <main className="p-8 text-[15px]">
        <p role="alert" className="text-failed">
          {sentenceOf(desk.error)}
        </p>
        <Link to="/" className="mt-3 inline-block underline">
          Back to the rounds
        </Link>
      </main>
    );
  return <Opening id={id} />;
}

function Opening({ id }: { id: number }) {
  const percent = useProgress(id, true);
  return (
    <main className="p-8 text-[15px] text-ink-2" aria-busy="true">
      Opening the round…{percent}
    </main>
  );
}
