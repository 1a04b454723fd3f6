import { createContext, use, useCallback, useMemo, useRef, useState, type ReactNode } from "react";
import { sentenceOf } from "../api/client.ts";

type Notice = { id: number; sentence: string; bad: boolean; undo?: () => void };
type Notices = {
  /** Says that something went wrong; stays until it is dismissed. */
  trouble: (error: unknown) => void;
  /** Says what was done, with a way back where there is one. */
  done: (sentence: string, undo?: () => void) => void;
  /** Says what must not be missed; stays until it is dismissed. */
  stays: (sentence: string) => void;
};

const Context = createContext<Notices>({ trouble: () => undefined, done: () => undefined, stays: () => undefined });

export const useNotices = (): Notices => use(Context);

export function NoticesProvider({ children }: { children: ReactNode }) {
  const [notices, setNotices] = useState<Notice[]>([]);
  const last = useRef(0);
  const drop = useCallback((id: number) => setNotices((all) => all.filter((n) => n.id !== id)), []);
  const add = useCallback(
    (notice: Omit<Notice, "id">) => {
      const id = ++last.current;
      setNotices((all) => [...all.filter((n) => n.sentence !== notice.sentence).slice(-2), { ...notice, id }]);
      if (!notice.bad) setTimeout(() => drop(id), 7000);
    },
    [drop],
  );
  const value = useMemo<Notices>(
    () => ({
      trouble: (error) => add({ sentence: sentenceOf(error), bad: true }),
      stays: (sentence) => add({ sentence, bad: true }),
      done: (sentence, undo) => add({ sentence, bad: false, ...(undo ? { undo } : {}) }),
    }),
    [add],
  );
  return (
    <Context value={value}>
      {children}
      <div className="pointer-events-none fixed inset-x-0 top-14 z-60 flex flex-col items-center gap-2">
        {notices.map((notice) => (
          <div
            key={notice.id}
            role={notice.bad ? "alert" : "status"}
            className={`pointer-events-auto flex max-w-[720px] items-center gap-4 rounded-[4px] border bg-leaf px-4 py-2.5 txt-15 shadow-lifted ${notice.bad ? "border-failed text-failed" : "border-rule-strong"}`}
          >
            <span>{notice.sentence}</span>
            {notice.undo && (
              <button
                type="button"
                className="font-semibold underline underline-offset-3"
                onClick={() => {
                  notice.undo?.();
                  drop(notice.id);
                }}
              >
                Undo
              </button>
            )}
            <button type="button" className="text-ink-2 hover:text-ink" onClick={() => drop(notice.id)}>
              Dismiss
            </button>
          </div>
        ))}
      </div>
    </Context>
  );
}
