import { useEffect, useState } from "react";
import { api, sentenceOf, told } from "../api/client.ts";
import { keepValue } from "../api/key.ts";
import { NoKey } from "./NoKey.tsx";

// Read before anything is shown, and once: the address is good once, and is not to stay in the history.
const code = location.pathname === "/in" ? location.hash.slice(1) : "";
if (code) history.replaceState(null, "", "/in");

let asked: Promise<{ value: string }> | undefined;

/** The page of an address with a code: lets this browser in and goes on to the rounds, or says why not. */
export default function WayIn() {
  const [said, setSaid] = useState("");
  useEffect(() => {
    asked ??= told(api.POST("/api/way-in", { body: { code } }));
    asked.then(
      ({ value }) => {
        keepValue(value);
        location.replace("/");
      },
      (error: unknown) => setSaid(sentenceOf(error)),
    );
  }, []);
  return said ? <NoKey said={said} /> : <main className="p-8 txt-15 text-ink-2" aria-busy="true">Opening…</main>;
}
