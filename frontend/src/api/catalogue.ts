import { useQuery } from "@tanstack/react-query";
import { api, told, type Catalogue } from "./client.ts";

const EMPTY: Catalogue = { roles: [], formats: [], aggregates: [], checks: [], functions: [], endings: [], places: { region: [], currency: [], locale: [] } };

/** What never changes while the program runs: roles, formats, functions, checks, kinds of files. It is asked for once. */
export const useCatalogueQuery = () =>
  useQuery({ queryKey: ["catalogue"], queryFn: () => told(api.GET("/api/catalogue")), staleTime: Infinity });

/** The same, empty until it has come. */
export const useCatalogue = (): Catalogue => useCatalogueQuery().data ?? EMPTY;

type Named = { code: string; name: string };

/** What a code is called, as it stands in the list that is typed into. */
export const nameOf = (list: Named[], code: string): string => list.find((each) => each.code === code)?.name ?? code;

/** The code that was meant by a name or a code; what is neither goes to the program as it is, and is refused there. */
export const codeOf = (list: Named[], typed: string): string => {
  const wanted = typed.trim().toLowerCase();
  return list.find((each) => [each.code, each.name].some((word) => word.toLowerCase() === wanted))?.code ?? typed.trim();
};
