import { useEffect, useState } from "react";
import { api, sentenceOf, told } from "../api/client.ts";
import { keepValue } from "../api/key.ts";
import { NoKey } from "./NoKey.tsx";

/** The code of this address, which is good once, and is not to stay in the history. */
function takeCode(): string {
  const code = location.hash.slice(1);
  if (code) history.replaceState(null, "", "/in");
  return code;
}

/** Lets this browser in and goes on to the rounds; says why not. */
async function letIn(code: string): Promise<string> {
  try {
    const { value } = await told(api.POST("/api/way-in", { body: { code } }));
    if (!keepValue(value)) return "This browser keeps nothing for this page, so it cannot be let in. Allow it to keep data for this address.";
    location.replace("/");
    return "";
  } catch (error) {
    return sentenceOf(error);
  }
}

// Asked once for each code, however often the page is drawn.
let asked = location.pathname === "/in" ? letIn(takeCode()) : undefined;

/** The page of an address with a code. */
export default function WayIn() {
  const [said, setSaid] = useState("");
  useEffect(() => {
    const say = () => void asked?.then(setSaid);
    // Another address in the same window changes nothing but what follows the #.
    const again = () => {
      const code = takeCode();
      if (!code) return;
      asked = letIn(code);
      say();
    };
    say();
    addEventListener("hashchange", again);
    return () => removeEventListener("hashchange", again);
  }, []);
  return said ? <NoKey said={said} /> : <main className="p-8 txt-15 text-ink-2" aria-busy="true">Opening…</main>;
}
