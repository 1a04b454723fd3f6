import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { sentenceOf, Trouble } from "../api/client.ts";
import { tellOthers } from "../api/news.ts";
import { useNotices } from "../ui/notices.tsx";
import { keepUnder, watchOthers } from "./durable.ts";
import { onEnded, outbox } from "./sending.ts";

/** Goes on with what an earlier page, or a window that was closed, left unsent, and says what of it was refused. */
export function useEnded(): void {
  const queries = useQueryClient();
  const notices = useNotices();
  useEffect(() => {
    onEnded(({ round, uid, label, order: asked }, settled) => {
      // A block that covers something is shown first, as soon as its round is on the screen.
      const { path, init } = asked;
      if (settled.kind === "refused" && settled.error instanceof Trouble && settled.error.kind === "see first" && path.endsWith("/paste")) keepUnder(`paste/${uid}`, init.body);
      else if (settled.kind === "refused") notices.trouble(new Trouble(`Not kept: ${label}. ${sentenceOf(settled.error)}`, "not kept"));
      tellOthers(round);
      void queries.invalidateQueries({ queryKey: ["desk", round] });
    });
  }, [queries, notices]);
  useEffect(() => {
    outbox.restore();
    void watchOthers(() => outbox.restore());
  }, []);
}
