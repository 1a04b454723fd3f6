import { useQuery } from "@tanstack/react-query";
import { api, told, type Catalogue } from "./client.ts";

const EMPTY: Catalogue = { roles: [], formats: [], aggregates: [], checks: [], functions: [], endings: [] };

/** What never changes while the program runs: roles, formats, functions, checks, kinds of files. It is asked for once. */
export const useCatalogueQuery = () =>
  useQuery({ queryKey: ["catalogue"], queryFn: () => told(api.GET("/api/catalogue")), staleTime: Infinity });

/** The same, empty until it has come. */
export const useCatalogue = (): Catalogue => useCatalogueQuery().data ?? EMPTY;
