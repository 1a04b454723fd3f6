import { useTitle } from "../ui/useTitle.ts";

/** What there is to see without the key: how to get in. `said` is why an address did not do. */
export function NoKey({ said }: { said?: string }) {
  useTitle("No key");
  return (
    <main className="mx-auto max-w-[640px] p-8 txt-15">
      <h1 className="title txt-28">This window has no key</h1>
      {said && (
        <p role="alert" className="mt-3 text-held">
          {said.split(/(?<=\.) /)[0]}
        </p>
      )}
      <p className="mt-4">
        The ledger opens only for the user who started the program: others who work on this machine cannot read it, or send from it.
      </p>
      <ol className="mt-4 list-decimal space-y-2 pl-5">
        <li>
          As that user, type <code className="font-sans font-semibold">gentle-ledger address</code> where you type commands.
        </li>
        <li>Open the address that it prints in this browser, within a minute. It is good once.</li>
      </ol>
      <p className="mt-4 text-ink-2">
        From then on this browser is let in, also by a bookmark. To do both at the start: <code className="font-sans font-semibold">gentle-ledger serve --open</code>.
      </p>
    </main>
  );
}
