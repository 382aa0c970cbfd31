/** Links for clients, and what clients said. */
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, unwrap, type Schemas } from "../api/client";

export type ClientLink = Schemas["LinkOut"];
export type Wishes = Schemas["WishesOut"];
export type LinkWish = Schemas["LinkIn"];

const MAKING_MS = 1500;
const LOOK_MS = 60_000;

/** The address that a client gets. */
export const addressOf = (token: string) => `${window.location.origin}/showing/${token}`;

export function useLinks() {
  return useQuery({
    queryKey: ["links"],
    queryFn: () => unwrap(client.GET("/api/links")),
    refetchInterval: (query) => (query.state.data?.some((l) => l.state === "open" && l.ready + l.failed < l.portraits) ? MAKING_MS : LOOK_MS),
  });
}

/** What clients said, by portrait. */
export function useWishes(): ReadonlyMap<string, Wishes> {
  const found = useQuery({
    queryKey: ["wishes"],
    queryFn: () => unwrap(client.GET("/api/wishes")),
    refetchInterval: LOOK_MS,
    select: (list) => new Map(list.map((w) => [w.portrait, w])),
  });
  return found.data ?? NOTHING;
}
const NOTHING: ReadonlyMap<string, Wishes> = new Map();

export function useLinkChanges() {
  const queries = useQueryClient();
  const onSettled = () => queries.invalidateQueries({ queryKey: ["links"] });
  const at = (link_id: string) => ({ params: { path: { link_id } } });
  return {
    make: useMutation({ mutationFn: (body: LinkWish) => unwrap(client.POST("/api/links", { body })), onSettled }),
    change: useMutation({
      mutationFn: ({ id, ...body }: { id: string } & Partial<Pick<LinkWish, "title" | "days" | "phrase">>) =>
        unwrap(client.PATCH("/api/links/{link_id}", { ...at(id), body })),
      onSettled,
    }),
    token: useMutation({ mutationFn: (id: string) => unwrap(client.POST("/api/links/{link_id}/token", at(id))), onSettled }),
    showAnew: useMutation({ mutationFn: (id: string) => unwrap(client.POST("/api/links/{link_id}/show", at(id))), onSettled }),
    withdraw: useMutation({ mutationFn: (id: string) => unwrap(client.DELETE("/api/links/{link_id}", at(id))), onSettled }),
  };
}

/** What a client said of a portrait, in words; "" where nothing is to be told. */
export function saidOf(wishes: Wishes | undefined): string {
  if (!wishes) return "";
  const many = (n: number, word: string) => `${n} ${word}${n === 1 ? "" : "es"}`;
  if (wishes.fresh > 0) return `${wishes.fresh} new ${wishes.fresh === 1 ? "wish" : "wishes"}`;
  if (wishes.open > 0) return many(wishes.open, "open wish");
  if (wishes.signed) return "signed off";
  return wishes.verdict === "fine" ? "client: fine" : wishes.verdict === "change" ? "client: to be changed" : "";
}

/** How a link stands, in words. */
export function standing(link: ClientLink): string {
  if (link.state !== "open") return link.state;
  if (link.failed > 0) return `${link.failed} of ${link.portraits} couldn't be made`;
  if (link.ready < link.portraits) return `making ${link.ready + 1} of ${link.portraits}`;
  if (link.signed_by) return `signed off by ${link.signed_by}`;
  const parts = [];
  if (link.fine) parts.push(`${link.fine} of ${link.portraits} fine`);
  if (link.change) parts.push(`${link.change} to be changed`);
  if (link.open_pins) parts.push(`${link.open_pins} open pin${link.open_pins === 1 ? "" : "s"}`);
  if (link.answered_at) parts.push("wishes sent");
  return parts.join(", ") || "nothing said yet";
}
