import { useQuery } from "@tanstack/react-query";
import { client, unwrapAs, type Kind } from "../../api/client";

/** The kinds as far as they have been fetched, for what happens outside of components. */
let kinds: Kind[] = [];

export function kindsNow(): readonly Kind[] {
  return kinds;
}

export function kindNamed(name: string): Kind | undefined {
  return kinds.find((k) => k.name === name);
}

export function keepKinds(found: Kind[]): Kind[] {
  return (kinds = found);
}

export function useKinds() {
  return useQuery({
    queryKey: ["kinds"],
    queryFn: async () => keepKinds(await unwrapAs<Kind[]>(client.GET("/api/kinds"))),
    staleTime: Infinity,
  });
}

/** Stages in the order of the work, with the names people read. */
export const STAGES: { name: string; title: string }[] = [
  { name: "look", title: "Look" },
  { name: "clear", title: "Clear" },
  { name: "even", title: "Even" },
  { name: "features", title: "Features" },
  { name: "shape", title: "Shape" },
  { name: "finish", title: "Finish" },
];
